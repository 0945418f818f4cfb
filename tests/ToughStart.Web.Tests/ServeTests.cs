using System.Diagnostics;

namespace ToughStart.Web.Tests;

/// <summary>The production start refuses addresses that would carry passwords in the clear.</summary>
public sealed class ServeTests
{
    [Theory]
    [InlineData("http://0.0.0.0:0")]
    [InlineData("http://*:5999")]
    [InlineData("http://[::]:0")]
    public async Task An_address_beyond_loopback_is_refused(string url)
    {
        var dll = typeof(Program).Assembly.Location;
        var start = new ProcessStartInfo("dotnet") { RedirectStandardError = true, RedirectStandardOutput = true };
        foreach (var a in new[] { dll, "--urls", url })
        {
            start.ArgumentList.Add(a);
        }

        start.Environment["ASPNETCORE_ENVIRONMENT"] = "Production";
        using var p = Process.Start(start)!;
        using var limit = new CancellationTokenSource(TimeSpan.FromSeconds(30));
        await p.WaitForExitAsync(limit.Token);
        p.ExitCode.ShouldBe(2);
        (await p.StandardError.ReadToEndAsync(limit.Token)).ShouldContain("not loopback");
    }
}
