using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Core.Formats;
using ToughStart.Core.Identification;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;
using ToughStart.Data;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

/// <summary>
/// The identify helper: what is said of a mark in the address, the answer on the page. Called from a job, what was tried on a mark is written
/// down with it, and two tries without effect end the trying.
/// </summary>
public sealed class IdentifyModel(JobStore jobs, GateStore gate, RecordStore records) : PageModel
{
    public IReadOnlyDictionary<string, string> Evidence { get; private set; } = new Dictionary<string, string>();

    public Identified Said { get; private set; } = null!;

    public string? Problem { get; private set; }

    /// <summary>The job it was called from, or null.</summary>
    public JobView? Job { get; private set; }

    public Vehicle? Vehicle { get; private set; }

    /// <summary>What was tried on its marks, by zone.</summary>
    public IReadOnlyList<IGrouping<string, MarkTry>> Tries { get; private set; } = [];

    public IReadOnlyDictionary<string, string> Names { get; private set; } = new Dictionary<string, string>();

    /// <summary>What was said of the mark, as it stands in the address.</summary>
    public string Address => string.Concat(Evidence.Select(e => $"&{Uri.EscapeDataString(e.Key)}={Uri.EscapeDataString(e.Value)}"));

    /// <summary>Classes something may be tried with, water first, as the catalogue has them.</summary>
    public static IEnumerable<(string Id, string Name)> Offered => Catalogue.Default.Agents.Select(a => (a.Id, a.Name));

    /// <summary>A class by its name; by its word where it has left the catalogue.</summary>
    public static string NameOf(string agent) => Catalogue.Default.Agents.FirstOrDefault(a => a.Id == agent)?.Name ?? agent;

    /// <summary>May whoever looks write to the job?</summary>
    public bool MayEdit => User.MayEdit() && Job is { Station: not "closed" };

    public async Task<IActionResult> OnGetAsync(int? job, CancellationToken stop)
    {
        Read();
        return await FillAsync(job, stop) ? Page() : NotFound();
    }

    /// <summary>Writes down what was tried, and what it did.</summary>
    public async Task<IActionResult> OnPostTriedAsync(
        int job,
        string? zone,
        string? agent,
        string? outcome,
        string? words,
        CancellationToken stop
    )
    {
        Read();
        if (!await FillAsync(job, stop))
        {
            return NotFound();
        }

        var tries = Tries.FirstOrDefault(t => t.Key == zone)?.Select(t => t.Outcome).ToArray() ?? [];
        var (status, problem) =
            !MayEdit ? (409, "Nothing is written to this job: it is closed, or you only look here.")
            : zone is null || !Vehicle!.Has(zone) ? (422, "Where: choose a zone of this vehicle.")
            : Catalogue.Default.Agents.All(a => a.Id != agent) ? (422, "What was tried: choose one of the list.")
            : MarkTries.Named(outcome) is null ? (422, $"What it did: one of {string.Join(", ", MarkTries.All.Select(o => o.Words))}.")
            : words?.Length > MarkTry.MostWords ? (422, $"Remark: at most {MarkTry.MostWords} characters.")
            : (200, null as string);
        problem ??= await gate.TryAsync(
            new MarkTry
            {
                JobId = Job!.Id,
                Zone = zone!,
                Evidence = Address.TrimStart('&'),
                Agent = agent!,
                Outcome = MarkTries.Named(outcome)!.Value,
                Words = string.IsNullOrWhiteSpace(words) ? null : words.Trim(),
                Author = User.StaffId(),
                At = gate.Now,
            },
            stop
        );
        if (problem is not null)
        {
            Response.StatusCode = status == 200 ? 422 : status;
            Problem = problem;
            return Page();
        }

        return Redirect($"/identify?job={job}{Address}#tried");
    }

    /// <summary>A try was written down by mistake.</summary>
    public async Task<IActionResult> OnPostMistakeAsync(int job, Guid id, CancellationToken stop)
    {
        Read();
        if (!await FillAsync(job, stop))
        {
            return NotFound();
        }

        if (!MayEdit || !await gate.StrikeTryAsync(Job!.Id, id, stop))
        {
            Response.StatusCode = 409;
            Problem = "It was not taken back: the job is closed, or the try is not there.";
            return Page();
        }

        return Redirect($"/identify?job={job}{Address}#tried");
    }

    private void Read()
    {
        ViewData["Title"] = "What is this mark?";
        ViewData["Station"] = "identify";
        var given = Request
            .Query.Where(q => q.Key is not ("job" or "handler") && !string.IsNullOrEmpty(q.Value))
            .ToDictionary(q => q.Key, q => q.Value.ToString());
        try
        {
            Said = MarkIdentifier.Identify(given);
            Evidence = given;
        }
        catch (ArgumentException e)
        {
            Response.StatusCode = 422;
            Problem = e.Message.Split(" (Parameter")[0];
            Evidence = given.Where(g => Catalogue.Default.Evidence.Any(v => v.Id == g.Key && v.Values.Contains(g.Value))).ToDictionary();
            Said = MarkIdentifier.Identify(Evidence);
        }
    }

    private async Task<bool> FillAsync(int? number, CancellationToken stop)
    {
        if (number is not { } n)
        {
            return true;
        }

        if ((Job = await jobs.JobAsync(n, stop)) is not { } job)
        {
            return false;
        }

        Vehicle = Forms.Build(job.Survey.Vehicle.Form, job.Survey.Vehicle.Size);
        Tries = [.. (await gate.TriesAsync(job.Id, stop)).GroupBy(t => t.Zone)];
        Names = await records.NamesAsync(stop);
        return true;
    }
}
