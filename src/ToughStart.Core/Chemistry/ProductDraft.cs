using System.Globalization;
using System.Text.RegularExpressions;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Chemistry;

/// <summary>A product of the shop as its label, data sheet and invoice have it: what a form or one row of a file says, checked.</summary>
/// <param name="Basis">How the label gives strengths: panel (sprayer), bottle (lance bottle, diluted again) or bucket.</param>
/// <param name="Low">Label strengths as written on it; null = the label does not say, the class stands.</param>
/// <param name="SheetOn">Date of the data sheet on file; null = none.</param>
/// <param name="Contains">Groups beside that of its class: bleach, ammonia, peroxide …</param>
public sealed partial record ProductDraft(
    string Name,
    string Agent,
    StrengthBasis Basis,
    string? Low,
    string? Reference,
    string? High,
    double? DwellMinutes,
    double? MaxDwellMinutes,
    double? NeatPh,
    double? WorkingPh,
    AgentCarrier? Carrier,
    decimal Price,
    decimal PackMl,
    decimal? StockMl,
    decimal LeastMl,
    string? Batch,
    DateOnly? Expiry,
    IReadOnlyList<string> Hazards,
    IReadOnlyList<string> Contains,
    IReadOnlyList<string> Allows,
    IReadOnlyList<string> Forbids,
    bool Fluoride,
    DateOnly? SheetOn,
    double Efficacy
)
{
    /// <summary>Fields in the order of the file; name and agent are needed, the rest may be empty.</summary>
    public static IReadOnlyList<string> Fields { get; } =
    [
        "name",
        "agent",
        "basis",
        "low",
        "reference",
        "high",
        "dwell_min",
        "max_dwell_min",
        "neat_ph",
        "working_ph",
        "carrier",
        "price",
        "pack_ml",
        "stock_ml",
        "least_ml",
        "batch",
        "expiry",
        "hazards",
        "contains",
        "allows",
        "forbids",
        "fluoride",
        "data_sheet",
        "efficacy",
    ];

    /// <summary>The bottle as the planner takes it: label strengths on the panel.</summary>
    /// <param name="lance">What the shop's lance draws: labels that speak of the lance bottle are diluted by it.</param>
    public ShelfBottle ToShelf(LanceDraw lance, decimal? stockMl)
    {
        ProductFraction? On(string? text) =>
            text is null
                ? null
                : ProductFraction.Of(Dilution.ParseStrength(text).Value * (Basis == StrengthBasis.Bottle ? lance.Ratio : 1));
        return new ShelfBottle(Agent, SheetOn is not null, WorkingPh, Fluoride)
        {
            Name = Name,
            NeatPh = NeatPh,
            Low = On(Low),
            Reference = On(Reference),
            High = On(High),
            Dwell = DwellMinutes,
            MaxDwell = MaxDwellMinutes,
            Carrier = Carrier,
            PricePerLitre = PackMl > 0 && Price > 0 ? Math.Round((double)(Price / PackMl * 1000), 4) : null,
            StockMl = stockMl is { } s ? (double)s : null,
            Efficacy = Efficacy == 1 ? null : Efficacy,
            Hazards = Hazards,
            Allows = Allows,
            Forbids = Forbids,
        };
    }

    /// <summary>Reads the fields of a form or of a row; every field that is wrong is named with what is allowed.</summary>
    /// <param name="of">The text of a field, null or empty when it is not given.</param>
    /// <param name="decimalComma">Numbers may be written 1,5: forms and files that are parted by semicolons.</param>
    public static Checked<ProductDraft> Read(Func<string, string?> of, bool decimalComma)
    {
        var c = Catalogue.Default;
        var problems = new List<Problem>();
        var agents = c.Agents.Where(a => !a.IsWater).Select(a => a.Id).ToArray();
        var name = Words("name", 80) ?? "";
        if (name.Length == 0 && problems.All(p => p.Field != "name"))
        {
            problems.Add(new Problem("name", "is missing"));
        }

        var agent = One("agent", agents);
        if (agent is null && problems.All(p => p.Field != "agent"))
        {
            problems.Add(new Problem("agent", "is missing", agents));
        }

        var basis = StrengthBasis.Maybe(One("basis", [.. StrengthBasis.Words]))
            ?? c.Agents.FirstOrDefault(a => a.Id == agent)?.Basis
            ?? StrengthBasis.Panel;
        var (low, reference, high) = (Strength("low"), Strength("reference"), Strength("high"));
        if (Falls(low, reference) || Falls(reference, high) || Falls(low, high))
        {
            problems.Add(new Problem("low", "low, reference and high rise in that order (weakest first)"));
        }

        var (dwell, max) = (Number("dwell_min", 0, 60, "minutes"), Number("max_dwell_min", 0, 60, "minutes"));
        if (dwell > max)
        {
            problems.Add(new Problem("max_dwell_min", "is at least the dwell"));
        }

        var sheet = Sheet();
        var draft = new ProductDraft(
            name,
            agent ?? "",
            basis,
            low?.Text,
            reference?.Text,
            high?.Text,
            dwell,
            max,
            Number("neat_ph", 0, 14, ""),
            Number("working_ph", 0, 14, ""),
            AgentCarrier.Maybe(One("carrier", [.. AgentCarrier.OfBottles.Select(k => k.Word)])),
            Money("price", 100_000) ?? 0,
            Ml("pack_ml", 0.01m) ?? 1000,
            Ml("stock_ml", 0),
            Ml("least_ml", 0) ?? 0,
            Words("batch", 40),
            Date("expiry"),
            List("hazards", c.Statements.Select(s => s.Code).ToArray(), upper: true),
            List("contains", c.Groups.Select(g => g.Id).ToArray()),
            List("allows", c.Surfaces.Select(s => s.Id).ToArray()),
            List("forbids", c.Surfaces.Select(s => s.Id).ToArray()),
            Flag("fluoride"),
            sheet,
            Number("efficacy", ShelfBottle.LeastEfficacy, ShelfBottle.MostEfficacy, "times the class") ?? 1
        );
        if (draft.Allows.Intersect(draft.Forbids).FirstOrDefault() is { } both)
        {
            problems.Add(new Problem("forbids", $"'{both}' is allowed and forbidden at once"));
        }

        return problems.Count == 0 ? new(draft, []) : new(null, problems);

        string? Text(string field) => of(field)?.Trim() is { Length: > 0 } t ? t : null;

        string? Words(string field, int most)
        {
            var t = Text(field);
            if (t is not null && LooksLikeFormula(t))
            {
                problems.Add(new Problem(field, "begins like a formula (=, +, -, @): spreadsheets would run it"));
            }
            else if (t?.Length > most || t?.Any(char.IsControl) == true)
            {
                problems.Add(new Problem(field, $"is at most {most} printable characters"));
            }

            return t;
        }

        string? One(string field, string[] allowed)
        {
            var t = Text(field)?.ToLowerInvariant().Replace(' ', '-');
            if (t is not null && !allowed.Contains(t))
            {
                problems.Add(new Problem(field, $"'{Short(t)}' is not known", allowed));
                return null;
            }

            return t;
        }

        string[] List(string field, string[] allowed, bool upper = false)
        {
            var words = (Text(field) ?? "")
                .Split([' ', ',', ';', '\n', '\r', '\t'], StringSplitOptions.RemoveEmptyEntries)
                .Select(w => upper ? w.ToUpperInvariant() : w.ToLowerInvariant())
                .Distinct()
                .ToArray();
            foreach (var w in words.Where(w => !allowed.Contains(w)))
            {
                problems.Add(new Problem(field, $"'{Short(w)}' is not known", allowed));
            }

            return words.Intersect(allowed).Order(StringComparer.Ordinal).ToArray();
        }

        (string Text, double Value)? Strength(string field)
        {
            if (Text(field) is not { } t)
            {
                return null;
            }

            if (t.Length <= 80 && Dilution.TryParse(t, null, out var reading, out var problem))
            {
                return (t, reading!.Fraction.Value);
            }

            Dilution.TryParse(t.Length <= 80 ? t : "", null, out _, out problem);
            problems.Add(new Problem(field, problem!));
            return null;
        }

        double? Number(string field, double least, double most, string unit)
        {
            if (Text(field) is not { } t)
            {
                return null;
            }

            var dotted = decimalComma && SingleComma().IsMatch(t) ? t.Replace(',', '.') : t;
            if (dotted.Contains(','))
            {
                problems.Add(new Problem(field, $"'{Short(t)}': a comma can part thousands or decimals; write 1500 or 1.5"));
                return null;
            }

            if (!double.TryParse(dotted, NumberStyles.Float, CultureInfo.InvariantCulture, out var v) || !(v >= least && v <= most))
            {
                problems.Add(
                    new Problem(
                        field,
                        $"'{Short(t)}' is not a number from {least.ToString("0.##", CultureInfo.InvariantCulture)} to "
                            + $"{most.ToString("0.##", CultureInfo.InvariantCulture)}{(unit.Length > 0 ? " " + unit : "")}"
                    )
                );
                return null;
            }

            return v;
        }

        decimal? Money(string field, double most) => Number(field, 0, most, "") is { } v ? Math.Round((decimal)v, 2) : null;

        decimal? Ml(string field, decimal least) =>
            Number(field, (double)least, 10_000_000, "ml") is { } v ? Math.Round((decimal)v, 2) : null;

        DateOnly? Date(string field)
        {
            if (Text(field) is not { } t)
            {
                return null;
            }

            if (
                DateOnly.TryParseExact(t, "yyyy-MM-dd", CultureInfo.InvariantCulture, DateTimeStyles.None, out var d)
                && d.Year is > 1990 and < 2100
            )
            {
                return d;
            }

            problems.Add(new Problem(field, $"'{Short(t)}' is not a date like 2027-03-31"));
            return null;
        }

        bool Flag(string field)
        {
            switch (Text(field)?.ToLowerInvariant())
            {
                case null or "no" or "false" or "0":
                    return false;
                case "yes" or "true" or "1" or "on":
                    return true;
                case var other:
                    problems.Add(new Problem(field, $"'{Short(other)}' is yes or no", ["yes", "no"]));
                    return false;
            }
        }

        DateOnly? Sheet() => Text("data_sheet")?.ToLowerInvariant() is null or "no" ? null : Date("data_sheet");

        static bool Falls((string Text, double Value)? a, (string Text, double Value)? b) =>
            a is { } x && b is { } y && x.Value > y.Value * (1 + 1e-9);

        static string Short(string t) => t.Length > 40 ? t[..40] + "…" : t;
    }

    /// <summary>The text of a field as the file has it.</summary>
    public string Cell(string field) =>
        field switch
        {
            "name" => Name,
            "agent" => Agent,
            "basis" => Basis.Word,
            "low" => Low ?? "",
            "reference" => Reference ?? "",
            "high" => High ?? "",
            "dwell_min" => N(DwellMinutes),
            "max_dwell_min" => N(MaxDwellMinutes),
            "neat_ph" => N(NeatPh),
            "working_ph" => N(WorkingPh),
            "carrier" => Carrier?.Word ?? "",
            "price" => Price.ToString("0.##", CultureInfo.InvariantCulture),
            "pack_ml" => PackMl.ToString("0.##", CultureInfo.InvariantCulture),
            "stock_ml" => StockMl?.ToString("0.##", CultureInfo.InvariantCulture) ?? "",
            "least_ml" => LeastMl.ToString("0.##", CultureInfo.InvariantCulture),
            "batch" => Batch ?? "",
            "expiry" => D(Expiry),
            "hazards" => string.Join(' ', Hazards),
            "contains" => string.Join(' ', Contains),
            "allows" => string.Join(' ', Allows),
            "forbids" => string.Join(' ', Forbids),
            "fluoride" => Fluoride ? "yes" : "no",
            "data_sheet" => SheetOn is null ? "no" : D(SheetOn),
            "efficacy" => N(Efficacy),
            _ => throw new ArgumentException($"'{field}' is no field of a product", nameof(field)),
        };

    /// <summary>Would a spreadsheet take it for a formula?</summary>
    public static bool LooksLikeFormula(string text) => text.Length > 0 && text[0] is '=' or '+' or '-' or '@' or '\t' or '\r';

    private static string N(double? v) => v?.ToString("0.####", CultureInfo.InvariantCulture) ?? "";

    private static string D(DateOnly? d) => d?.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture) ?? "";

    [GeneratedRegex(@"^-?\d+,\d+$")]
    private static partial Regex SingleComma();
}
