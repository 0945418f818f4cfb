using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Data;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

/// <summary>House rules of a job: every school with both sides explained, what a change flips in this plan, and sets kept by name.</summary>
public sealed class RulesModel(JobDesk desk, HouseStore house) : JobPage(desk)
{
    public override string Station => "plan";

    public IReadOnlyList<HousePreset> Kept { get; private set; } = [];

    public IReadOnlyList<string> Problems { get; private set; } = [];

    /// <summary>Rules as chosen on the page.</summary>
    public IReadOnlyDictionary<string, string> Chosen { get; private set; } = new Dictionary<string, string>();

    public PlanComparison? Comparison { get; private set; }

    public async Task<IActionResult> OnGetAsync(int number, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        Kept = await house.AllAsync(stop);
        Chosen = Job.Survey.House;
        return Page();
    }

    /// <summary>What the rules as chosen would change in the plan, while they are being chosen.</summary>
    public async Task<IActionResult> OnPostPreviewAsync(int number, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        var other = Equipped with { House = Read() };
        if (StageGraph.Contradiction(other) is { } contradiction)
        {
            Problems = [contradiction];
        }
        else
        {
            Comparison = PlanCompare.Of(Draft, Workshop.Plan(other, stop));
        }

        return Partial("Preview", this);
    }

    public async Task<IActionResult> OnPostAsync(int number, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        return await SaveAsync(number, Read(), stop);
    }

    public async Task<IActionResult> OnPostTakeAsync(int number, Guid kept, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        return await house.RulesAsync(kept, stop) is { } rules
            ? await SaveAsync(number, rules, stop)
            : await Again("that set of rules is not kept any more", 409, stop);
    }

    public async Task<IActionResult> OnPostKeepAsync(int number, string? name, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        return name?.Trim() is not { Length: > 0 and <= 60 } wanted
                ? await Again("name: a set of rules is kept under 1 to 60 characters", 422, stop)
            : await house.KeepAsync(wanted, Job.Survey.House, User.StaffId(), stop) ? Redirect($"/jobs/{number}/rules")
            : await Again($"name: {HouseStore.Most} sets are kept already; forget one first", 422, stop);
    }

    /// <summary>Lets new jobs start with a kept set, or with none.</summary>
    public async Task<IActionResult> OnPostNewJobsAsync(int number, Guid? kept, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        return await house.ForNewJobsAsync(kept, stop)
            ? Redirect($"/jobs/{number}/rules")
            : await Again("that set of rules is not kept any more", 409, stop);
    }

    public async Task<IActionResult> OnPostForgetAsync(int number, Guid kept, CancellationToken stop)
    {
        await house.ForgetAsync(kept, stop);
        return Redirect($"/jobs/{number}/rules");
    }

    private async Task<IActionResult> SaveAsync(int number, IReadOnlyDictionary<string, string> rules, CancellationToken stop)
    {
        if (StageGraph.Contradiction(Job.Survey with { House = rules }) is { } contradiction)
        {
            return await Again(contradiction, 422, stop);
        }

        var saved = await Jobs.SaveSurveyAsync(Job.Id, Job.Revision, Job.Survey with { House = rules }, User.StaffId(), stop);
        return saved.Saved
            ? Redirect($"/jobs/{number}/plan")
            : await Again($"{saved.TheirAuthor} changed the job at the same moment; nothing was overwritten. Look again.", 409, stop);
    }

    private async Task<PageResult> Again(string problem, int status, CancellationToken stop)
    {
        (Problems, Response.StatusCode, Kept, Chosen) = (
            [problem],
            status,
            await house.AllAsync(stop),
            Request.HasFormContentType ? Read() : Job.Survey.House
        );
        return Page();
    }

    /// <summary>Known rules and choices of the form; what is not said stays as it was, the default is not written down.</summary>
    private Dictionary<string, string> Read()
    {
        var rules = new Dictionary<string, string>(Job.Survey.House);
        foreach (var rule in HouseRules.All)
        {
            if (Request.Form.TryGetValue("rule." + rule.Id, out var value) && rule.Choices.Any(c => c.Value == value))
            {
                if (value == rule.Choices[0].Value)
                {
                    rules.Remove(rule.Id);
                }
                else
                {
                    rules[rule.Id] = value!;
                }
            }
        }

        return rules;
    }
}
