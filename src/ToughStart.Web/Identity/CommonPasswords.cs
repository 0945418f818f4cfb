using Microsoft.AspNetCore.Identity;
using ToughStart.Data;

namespace ToughStart.Web.Identity;

/// <summary>Refuses passwords that are tried first: common words, one piece over and over, rows of the keyboard, the person's own name.</summary>
public sealed class CommonPasswords : IPasswordValidator<StaffUser>
{
    private static readonly string[] Pieces =
    [
        "password",
        "passwort",
        "passw0rd",
        "qwerty",
        "qwertz",
        "azerty",
        "asdfgh",
        "zxcvbn",
        "letmein",
        "welcome",
        "iloveyou",
        "administrator",
        "changeme",
        "toughstart",
        "abcdef",
        "1q2w3e",
        "123456",
        "987654",
        "111111",
        "000000",
        "football",
        "sunshine",
        "princess",
        "monkey",
        "dragon",
        "superman",
        "secret",
    ];

    public Task<IdentityResult> ValidateAsync(UserManager<StaffUser> manager, StaffUser user, string? password) =>
        Task.FromResult(
            Why(password ?? "", user.UserName ?? "") is { } why
                ? IdentityResult.Failed(new IdentityError { Code = "Common", Description = why })
                : IdentityResult.Success
        );

    /// <summary>Why a password is too easily guessed; null = it is not.</summary>
    public static string? Why(string password, string user)
    {
        var plain = new string([.. password.ToLowerInvariant().Where(char.IsLetterOrDigit)]);
        if (Repeats(password.ToLowerInvariant()))
        {
            return "The password is one piece over and over. Take four words that have nothing to do with each other.";
        }

        // What is left of it once the common pieces are out has to carry it.
        var rest = Pieces
            .Append(user.ToLowerInvariant())
            .Where(p => p.Length > 2)
            .Aggregate(plain, (s, piece) => s.Replace(piece, "", StringComparison.Ordinal));
        return rest.Length < 8 && rest.Length < plain.Length
            ? "The password is among those that are tried first. Take four words that have nothing to do with each other."
            : null;
    }

    private static bool Repeats(string s) =>
        Enumerable.Range(1, s.Length / 3).Any(piece => Enumerable.Range(piece, s.Length - piece).All(i => s[i] == s[i % piece]));
}
