using System.Text.Json;
using ToughStart.Core.Formats;

namespace ToughStart.Scheduling;

/// <summary>A survey to be laid out, with who and what is there.</summary>
public sealed record TimelineRequest(Survey Survey, IReadOnlyList<Person> People, Machines Machines)
{
    private const int Most = 6;

    /// <summary>Longest shift and break that is said, s: three days.</summary>
    private const int Longest = 3 * 86_400;

    /// <summary>
    /// Reads <c>{ "survey": …, "people": 2, "washers": 1, "ladders": 1 }</c>; people may be a list of
    /// <c>{ "id", "skills", "shifts": [[from, to]], "rest": { "seconds", "from", "to" } }</c> with seconds from the start.
    /// </summary>
    public static Checked<TimelineRequest> Read(JsonElement root)
    {
        var problems = new List<Problem>();
        if (root.ValueKind != JsonValueKind.Object)
        {
            return new(null, [new Problem("(document)", "must be an object")]);
        }

        problems.AddRange(
            root.EnumerateObject()
                .Where(p => p.Name is not ("survey" or "people" or "washers" or "ladders"))
                .Select(p => new Problem(p.Name[..Math.Min(40, p.Name.Length)], "is not known", ["survey", "people", "washers", "ladders"]))
        );
        Survey? survey = null;
        if (root.TryGetProperty("survey", out var s))
        {
            var read = SurveyFormat.Read(s);
            survey = read.Value;
            problems.AddRange(read.Problems.Select(p => p with { Field = $"survey.{p.Field}" }));
        }
        else
        {
            problems.Add(new Problem("survey", "is missing"));
        }

        var machines = new Machines(Whole(root, "washers", 1, problems), Whole(root, "ladders", 1, problems));
        var people =
            root.TryGetProperty("people", out var p) && p.ValueKind == JsonValueKind.Array
                ? Named(p, problems)
                : [.. Enumerable.Range(1, Whole(root, "people", 1, problems)).Select(n => new Person($"p{n}", [], [], []))];
        return problems.Count > 0 ? new(null, problems) : new(new TimelineRequest(survey!, people, machines), []);
    }

    private static int Whole(JsonElement root, string field, int least, List<Problem> problems)
    {
        if (!root.TryGetProperty(field, out var v))
        {
            return 1;
        }

        if (v.ValueKind == JsonValueKind.Number && v.TryGetInt32(out var n) && n >= least && n <= Most)
        {
            return n;
        }

        problems.Add(new Problem(field, $"must be a whole number from {least} to {Most}"));
        return 1;
    }

    private static Person[] Named(JsonElement list, List<Problem> problems)
    {
        var people = new List<Person>();
        foreach (var (e, i) in list.EnumerateArray().Take(Most + 1).Select((e, i) => (e, i)))
        {
            var at = $"people[{i}]";
            if (e.ValueKind != JsonValueKind.Object || !e.TryGetProperty("id", out var id) || id.ValueKind != JsonValueKind.String)
            {
                problems.Add(new Problem(at, "must be an object with an id"));
                continue;
            }

            string[] skills =
                e.TryGetProperty("skills", out var sk) && sk.ValueKind == JsonValueKind.Array
                    ? [.. sk.EnumerateArray().Select(x => x.ValueKind == JsonValueKind.String ? x.GetString()! : "?")]
                    : [];
            if (skills.FirstOrDefault(x => !PlanTasks.Skills.Contains(x)) is not null)
            {
                problems.Add(new Problem($"{at}.skills", "holds what nobody can do", PlanTasks.Skills));
            }

            var shifts =
                e.TryGetProperty("shifts", out var sh) && sh.ValueKind == JsonValueKind.Array
                    ? sh.EnumerateArray().Select(x => StretchOf(x)).ToArray()
                    : [];
            if (shifts.Any(x => x is null) || (shifts.Length == 0 && e.TryGetProperty("shifts", out _)))
            {
                problems.Add(new Problem($"{at}.shifts", $"must be pairs of seconds, from before to, at most {Longest}; one or more"));
            }

            Rest? rest = null;
            if (e.TryGetProperty("rest", out var r))
            {
                rest = RestOf(r);
                if (rest is null)
                {
                    problems.Add(new Problem($"{at}.rest", "must be seconds, from and to, and fit between them"));
                }
            }

            people.Add(new(id.GetString()!, skills, [.. shifts.OfType<Stretch>()], []) { Rest = rest });
        }

        if (people.Count is 0 or > Most)
        {
            problems.Add(new Problem("people", $"must be 1 to {Most}"));
        }

        if (people.DistinctBy(x => x.Id).Count() < people.Count)
        {
            problems.Add(new Problem("people", "holds an id twice"));
        }

        return [.. people];
    }

    private static Stretch? StretchOf(JsonElement e) =>
        e.ValueKind == JsonValueKind.Array
        && e.GetArrayLength() == 2
        && e[0].ValueKind == JsonValueKind.Number
        && e[1].ValueKind == JsonValueKind.Number
        && e[0].TryGetInt32(out var from)
        && e[1].TryGetInt32(out var to)
        && from >= 0
        && to > from
        && to <= Longest
            ? new Stretch(from, to)
            : null;

    private static Rest? RestOf(JsonElement e)
    {
        int? Of(string name) =>
            e.ValueKind == JsonValueKind.Object
            && e.TryGetProperty(name, out var v)
            && v.ValueKind == JsonValueKind.Number
            && v.TryGetInt32(out var n)
                ? n
                : null;
        return
            Of("seconds") is { } seconds
            && Of("from") is { } from
            && Of("to") is { } to
            && seconds > 0
            && from >= 0
            && to <= Longest
            && to - from >= seconds
            ? new Rest(seconds, from, to)
            : null;
    }
}
