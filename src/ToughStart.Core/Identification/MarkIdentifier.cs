using ToughStart.Core.Contamination;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Identification;

/// <summary>Something that can be said of a mark: a question with its answers.</summary>
/// <param name="Test">A harmless test that answers it; null when only looking does.</param>
public sealed record EvidenceVariable(string Id, string Ask, IReadOnlyList<string> Values, string? Test, string? Caution)
{
    internal static EvidenceVariable Read(Table.Row r) =>
        new(r["variable"], r["ask"], r.Words("values"), Blank(r["test"]), Blank(r["caution"]));

    private static string? Blank(string cell) => cell.Length is 0 || cell == "-" ? null : cell;
}

/// <summary>How likely a kind shows each value of each variable.</summary>
/// <param name="Weights">Per variable, the probability of each of its values; absent where the kind tells nothing of it.</param>
public sealed record MarkKind(string Id, double Prior, IReadOnlyDictionary<string, IReadOnlyDictionary<string, double>> Weights)
{
    /// <summary>Names of what is no contaminant: never treated, only recorded.</summary>
    public bool NotDirt => Id is "etch" or "own-rust" or "clear-coat-failure" or "oxidation";
}

/// <summary>A kind the mark may be, and how sure that is.</summary>
public sealed record Candidate(string Id, string Name, double Probability, bool NotDirt);

/// <summary>What to find out next, and how much it would tell (bits).</summary>
public sealed record NextQuestion(EvidenceVariable Variable, double Bits);

/// <summary>The helper's answer.</summary>
/// <param name="Candidates">Most likely first; they sum to 1 with what is left out.</param>
/// <param name="Sure">At least the confidence from which chemistry may be named; below it only a test is proposed.</param>
/// <param name="Next">The questions that tell most; tests first when the answer is not sure.</param>
/// <param name="Treatments">Gentlest first; empty below that confidence, for unknown marks and for what is not dirt.</param>
/// <param name="Cautions">What to mind, whatever it is.</param>
/// <param name="Stop">When to stop.</param>
public sealed record Identified(
    IReadOnlyList<Candidate> Candidates,
    bool Sure,
    IReadOnlyList<NextQuestion> Next,
    IReadOnlyList<string> Treatments,
    IReadOnlyList<string> Cautions,
    string Stop
);

/// <summary>
/// Says what an unknown mark may be: Bayes over the catalogue's likelihood levels, with an unknown class that explains
/// everything equally well, and evidence tempered because signs of one mark are not independent.
/// </summary>
public static class MarkIdentifier
{
    /// <summary>Weighs everything that was said.</summary>
    /// <param name="evidence">Value by variable; what nobody looked at is left out.</param>
    /// <exception cref="ArgumentException">A variable or value is not in the catalogue; the message names it and what is allowed.</exception>
    public static Identified Identify(IReadOnlyDictionary<string, string> evidence)
    {
        var c = Catalogue.Default;
        foreach (var (variable, value) in evidence)
        {
            var known = c.Evidence.FirstOrDefault(v => v.Id == variable)
                ?? throw new ArgumentException(
                    $"'{variable}' is not asked; allowed: {string.Join(", ", c.Evidence.Select(v => v.Id))}",
                    nameof(evidence)
                );
            if (!known.Values.Contains(value))
            {
                throw new ArgumentException(
                    $"{variable}: '{value}' is not an answer; allowed: {string.Join(", ", known.Values)}",
                    nameof(evidence)
                );
            }
        }

        var p = Posterior(evidence);
        var candidates = c
            .Marks.Select((k, i) => new Candidate(k.Id, NameOf(k.Id), p[i], k.NotDirt))
            .OrderByDescending(x => x.Probability)
            .ThenBy(x => x.Id, StringComparer.Ordinal)
            .ToArray();
        var best = candidates[0];
        var sure = best.Probability >= c["identify-sure"] && best.Id != "unknown";
        var questions = c
            .Evidence.Where(v => !evidence.ContainsKey(v.Id))
            .Select(v => new NextQuestion(v, Information(p, v, evidence)))
            .OrderByDescending(q => q.Bits)
            .ToArray();
        var next = sure
            ? questions.Take(3).ToArray()
            : [.. questions.Where(q => q.Variable.Test is not null).Take(2), .. questions.Where(q => q.Variable.Test is null).Take(2)];
        return new Identified(
            candidates,
            sure,
            next,
            sure && !best.NotDirt ? TreatmentsFor(best.Id, evidence.GetValueOrDefault("place")) : [],
            CautionsFor(best, candidates),
            best.NotDirt && sure
                ? "This is the surface itself, not dirt: record it, treat nothing, refer."
                : "Any change of gloss or colour, or two tries without effect: stop, write it down as unknown. Never stronger and stronger."
        );
    }

    private static double[] Posterior(IReadOnlyDictionary<string, string> evidence)
    {
        var c = Catalogue.Default;
        var temper = c["identify-temper"];
        var log = c.Marks.Select(k => Math.Log(k.Prior) + temper * evidence.Sum(e => Math.Log(Likelihood(k, e.Key, e.Value)))).ToArray();
        var most = log.Max();
        var p = log.Select(l => Math.Exp(l - most)).ToArray();
        var sum = p.Sum();
        return p.Select(x => x / sum).ToArray();
    }

    private static double Likelihood(MarkKind k, string variable, string value) =>
        k.Weights.TryGetValue(variable, out var w) ? w[value] : 1.0 / Catalogue.Default.Evidence.First(v => v.Id == variable).Values.Count;

    /// <summary>Expected loss of uncertainty, in bits, from knowing a variable.</summary>
    private static double Information(double[] p, EvidenceVariable v, IReadOnlyDictionary<string, string> evidence)
    {
        var marks = Catalogue.Default.Marks;
        var expected = 0.0;
        foreach (var value in v.Values)
        {
            var chance = marks.Select((k, i) => p[i] * Likelihood(k, v.Id, value)).Sum();
            expected += chance * Entropy(Posterior(new Dictionary<string, string>(evidence) { [v.Id] = value }));
        }

        return Math.Max(0, Entropy(p) - expected);
    }

    private static double Entropy(double[] p) => -p.Where(x => x > 0).Sum(x => x * Math.Log2(x));

    private static string NameOf(string id) =>
        id switch
        {
            "unknown" => "Unknown",
            "etch" => "Etch mark",
            "own-rust" => "The vehicle's own rust",
            "clear-coat-failure" => "Failing clear coat",
            _ => Catalogue.Default.Contaminant(id).Name,
        };

    /// <summary>
    /// What takes this kind where it sits, gentlest first, as the planner knows it. Never acid; clay only its finest, and only for what
    /// nothing else takes.
    /// </summary>
    private static string[] TreatmentsFor(string id, string? place)
    {
        var kind = Catalogue.Default.Contaminant(id);
        var family = place switch
        {
            "wheels" => Family.Wheel,
            "tyres" => Family.Tyre,
            "glass" => Family.Glass,
            "seams" => Family.Seal,
            _ => Family.Body,
        };
        family = kind.CanSitOn(family) ? family : kind.Families[0];
        bool Fits(Treatment t) =>
            t.SuitsFamily(family)
            && t.Removes.Any(r => r.Kind == kind.Index && r.Decades >= Catalogue.Default["works-from"])
            && t.Agent.Axis != Axis.Acid
            && (!t.IsClay || (id is "bonded-mix" or "overspray" && t.Id.EndsWith("fine", StringComparison.Ordinal)));
        return Catalogue
            .Default.Treatments.Where(Fits)
            .OrderBy(t => t.Agent.Level)
            .ThenByDescending(t => t.Removes.First(r => r.Kind == kind.Index).Decades)
            .Select(t => $"{t.Name}{(t.Agent.IsWater ? "" : $" ({t.Agent.Name} {t.Agent.Reference})")}")
            .Distinct()
            .Take(3)
            .ToArray();
    }

    private static List<string> CautionsFor(Candidate best, IReadOnlyList<Candidate> all)
    {
        var list = new List<string> { "Hidden test spot first, on that same surface. Cool panel, no pressure." };
        var worth = Catalogue.Default["identify-caution"];
        double Of(params string[] ids) => all.Where(c => ids.Contains(c.Id)).Sum(c => c.Probability);
        if (Of("grit", "mud", "cement", "bug") > worth)
        {
            list.Add("May scratch: rinse and soak before anything touches it.");
        }

        if (Of("bird-dropping", "bug", "sap") > worth)
        {
            list.Add("Etches while it waits: soak today, look for the outline after.");
        }

        if (Of("iron", "mineral", "cement") > worth)
        {
            list.Add("Iron remover and acid never meet: a full rinse of panel and tools between.");
        }

        if (best.Id == "own-rust")
        {
            list.Add("Do not chase it with iron remover: it eats on under the paint. Refer to body repair.");
        }

        if (best.Id == "bird-dropping" || Of("mud") > Catalogue.Default["likely"])
        {
            list.Add("Droppings and flood mud carry disease: gloves, wet, never brushed dry.");
        }

        return list;
    }

    internal static MarkKind ReadMark(Table.Row r, IReadOnlyList<EvidenceVariable> variables, Catalogue c)
    {
        var weights = new Dictionary<string, IReadOnlyDictionary<string, double>>();
        foreach (var v in variables)
        {
            var words = r.Words(v.Id);
            if (words.Length == 0)
            {
                continue;
            }

            var given = words.ToDictionary(
                w => w.TrimEnd('!', '?'),
                w =>
                    w.EndsWith('!') ? c["evidence-strong"]
                    : w.EndsWith('?') ? c["evidence-weak"]
                    : c["evidence-plain"]
            );
            if (given.Keys.FirstOrDefault(g => !v.Values.Contains(g)) is { } stray)
            {
                throw new InvalidDataException($"{r["kind"]}, {v.Id}: '{stray}' is not a value");
            }

            var raw = v.Values.ToDictionary(x => x, x => given.GetValueOrDefault(x, c["evidence-unsaid"]));
            var sum = raw.Values.Sum();
            weights[v.Id] = raw.ToDictionary(x => x.Key, x => x.Value / sum);
        }

        return new MarkKind(r["kind"], r.Number("prior"), weights);
    }
}
