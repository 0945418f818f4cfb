using Microsoft.AspNetCore.DataProtection;

namespace ToughStart.Web.Bay;

/// <summary>
/// Whose entries a phone may hand in, also after the sign-in has run out or somebody else has signed in on it: for a day, and for nothing
/// else.
/// </summary>
public sealed class Tickets(IDataProtectionProvider protection)
{
    private static readonly TimeSpan Life = TimeSpan.FromHours(24);
    private readonly ITimeLimitedDataProtector _protector = protection.CreateProtector("bay.ticket").ToTimeLimitedDataProtector();

    /// <summary>A ticket for a person on a device.</summary>
    /// <param name="role">What they may do; a reader's ticket only brings what is new.</param>
    public string Give(string who, string device, string role) => _protector.Protect($"{device}\n{who}\n{role}", Life);

    /// <summary>The person of a ticket; null = it is none for this device, or too old.</summary>
    public (string Who, string Role)? Read(string? ticket, string device)
    {
        if (string.IsNullOrEmpty(ticket) || ticket.Length > 2000)
        {
            return null;
        }

        try
        {
            return _protector.Unprotect(ticket).Split('\n') is [var of, var who, var role] && of == device ? (who, role) : null;
        }
        catch (System.Security.Cryptography.CryptographicException)
        {
            return null;
        }
    }
}
