using System.Globalization;
using System.Text.Json.Nodes;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Formats;
using ToughStart.Core.Vehicles;
using ToughStart.Data;

namespace ToughStart.Web.Stations;

/// <summary>The intake form as it is typed; everything is text until it has been checked, so that nothing typed is lost.</summary>
public sealed class IntakeForm
{
    public string? Client { get; set; }
    public string? Phone { get; set; }
    public string? Email { get; set; }
    public string? Vehicle { get; set; }
    public string? Plate { get; set; }
    public string? Story { get; set; }
    public string? Day { get; set; }

    /// <summary>Index into <see cref="Forms.Presets"/>.</summary>
    public int Preset { get; set; } = 2;
    public string Unit { get; set; } = "mm";
    public string? Length { get; set; }
    public string? Width { get; set; }
    public string? Height { get; set; }
    public string Colour { get; set; } = "#b9bdc0";
    public string Softness { get; set; } = "unknown";
    public string Powertrain { get; set; } = "combustion";
    public string? Sheet { get; set; }
    public bool HotEngine { get; set; }

    /// <summary>A kept place whose values fill what is not typed here.</summary>
    public Guid? Kept { get; set; }

    public string Goal { get; set; } = "wash";
    public string? NextUse { get; set; }
    public string? SaleDate { get; set; }
    public string TyreLook { get; set; } = "none";
    public bool ScentFree { get; set; }
    public string? LeaveAlone { get; set; }
    public string? Budget { get; set; }
    public bool Consent { get; set; }
    public string? Notes { get; set; }

    public string? Storage { get; set; }
    public string? Use { get; set; }
    public string? Region { get; set; }
    public string? MonthsSinceWash { get; set; }
    public string? CoatedMonths { get; set; }

    /// <summary>Names the form that was opened, so that sending it twice takes in one vehicle.</summary>
    public Guid Once { get; set; } = Guid.CreateVersion7();

    public string Flood { get; set; } = "none";
    public bool Nests { get; set; }
    public string? BrakeDust { get; set; }
    public bool Biological { get; set; }

    /// <summary>Who released which hold: a name for each hold that has one.</summary>
    public Dictionary<string, string?> Releases { get; set; } = [];

    public string? Place { get; set; }

    /// <summary>Spans in shade as typed: "8-11, 15-18.5".</summary>
    public string? Shade { get; set; }
    public string? Ground { get; set; }
    public string? Slope { get; set; }
    public string? Drain { get; set; }
    public string? Water { get; set; }
    public string? Hardness { get; set; }
    public string HardnessUnit { get; set; } = "mg-l";
    public string? Power { get; set; }
    public bool NeighboursClose { get; set; }
    public string? Access { get; set; }
    public string? Latitude { get; set; }
    public string? Longitude { get; set; }

    /// <summary>Version of the job's row when the page was opened, and the survey's revision.</summary>
    public uint Version { get; set; }
    public int Revision { get; set; }

    public static IntakeForm Of(
        Survey s,
        Client? client = null,
        ClientVehicle? vehicle = null,
        Job? job = null,
        IntakeWishes? wishes = null
    )
    {
        string? N(double? v) => v?.ToString("0.###", CultureInfo.InvariantCulture);
        var d = Forms.DefaultSize(s.Vehicle.Form);
        var preset = Forms
            .Presets.Select((p, i) => (p, i))
            .Where(x => x.p.Form == s.Vehicle.Form)
            .MinBy(x => Math.Abs(x.p.Size.Height - s.Vehicle.Size.Height))
            .i;
        d = Forms.Presets[preset].Size;
        string? Mm(double v, double standard) => Math.Abs(v - standard) < 0.0005 ? null : N(Math.Round(v * 1000));
        return new IntakeForm
        {
            Client = client?.Name,
            Phone = client?.Phone,
            Email = client?.Email,
            Vehicle = vehicle?.Name,
            Plate = vehicle?.Plate,
            Story = job?.Story,
            Day = job?.Day.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
            Preset = preset,
            Length = Mm(s.Vehicle.Size.Length, d.Length),
            Width = Mm(s.Vehicle.Size.Width, d.Width),
            Height = Mm(s.Vehicle.Size.Height, d.Height),
            Colour = s.Vehicle.Colour ?? "#b9bdc0",
            Softness = s.Vehicle.Softness,
            Powertrain = s.Vehicle.Powertrain,
            Sheet = s.Vehicle.Sheet,
            HotEngine = s.Vehicle.HotEngine ?? false,
            Goal = s.Goal.Word,
            NextUse = wishes?.NextUse,
            SaleDate = wishes?.SaleDate?.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
            TyreLook = s.Rule("tyres"),
            ScentFree = wishes?.ScentFree ?? false,
            LeaveAlone = wishes?.LeaveAlone,
            Budget = wishes?.Budget?.ToString("0.##", CultureInfo.InvariantCulture),
            Consent = wishes?.Consent ?? false,
            Notes = wishes?.Notes,
            Storage = s.History.Storage,
            Use = s.History.Use,
            Region = s.History.Region,
            MonthsSinceWash = N(s.History.MonthsSinceWash),
            CoatedMonths = N(s.History.CoatedMonths),
            Flood = s.History.Flood,
            Nests = s.History.Nests,
            BrakeDust = s.History.BrakeDust,
            Biological = s.History.Biological,
            Releases = s.History.Releases.ToDictionary(r => r.Hold, r => (string?)r.By),
            Place = s.Site.Place,
            Shade =
                s.Site.ShadeHours.Count == 0
                    ? null
                    : string.Join(", ", s.Site.ShadeHours.Select(x => FormattableString.Invariant($"{x.From:0.##}-{x.To:0.##}"))),
            Ground = s.Site.Ground,
            Slope = s.Site.Slope,
            Drain = s.Site.Drain,
            Water = s.Site.Water,
            Hardness = N(s.Site.WaterHardnessMgL),
            Power = s.Site.Power,
            NeighboursClose = s.Site.NeighboursClose ?? false,
            Access = s.Site.Access,
            Latitude = N(s.Site.Latitude),
            Longitude = N(s.Site.Longitude),
            Version = job?.Version ?? 0,
            Revision = s.Revision ?? 0,
        };
    }

    /// <summary>The survey this form describes, on top of an earlier one; problems name the field as the page does.</summary>
    /// <param name="releases">Hold and id of who released it.</param>
    public Survey? ToSurvey(Survey? start, IReadOnlyList<Release> releases, List<Problem> problems)
    {
        var (form, _, size) = Forms.Presets[Math.Clamp(Preset, 0, Forms.Presets.Count - 1)];
        var k = Unit == "in" ? 25.4 : 1;
        var o = start is null
            ? new JsonObject
            {
                ["format"] = Survey.Format,
                ["zones"] = new JsonArray(),
                ["house"] = new JsonObject(),
            }
            : JsonNode.Parse(SurveyFormat.Write(start))!.AsObject();
        if (start is not null && start.Vehicle.Form != form)
        {
            // Another body has other zones; what both have is kept.
            var there = Forms.Build(form, size);
            o["zones"] = new JsonArray([
                .. o["zones"]!.AsArray().Where(z => there.Has(z!["zone"]!.GetValue<string>())).Select(z => z!.DeepClone()),
            ]);
        }

        JsonNode? Number(string? text, string field, double factor = 1, double offset = 0)
        {
            if (string.IsNullOrWhiteSpace(text))
            {
                return null;
            }

            if (
                double.TryParse(text.Trim().Replace(',', '.'), NumberStyles.Float, CultureInfo.InvariantCulture, out var v)
                && double.IsFinite(v)
            )
            {
                return v * factor + offset;
            }

            problems.Add(new Problem(field, $"'{(text.Length > 40 ? text[..40] + "…" : text)}' is not a number"));
            return null;
        }

        var vehicle = new JsonObject
        {
            ["form"] = form,
            ["colour"] = Colour,
            ["softness"] = Softness,
            ["powertrain"] = Powertrain,
        };
        Set(vehicle, "sheet", Sheet);
        if (HotEngine)
        {
            vehicle["hotEngine"] = true;
        }

        foreach (
            var (field, typed, standard) in new[]
            {
                ("lengthMm", Length, size.Length),
                ("widthMm", Width, size.Width),
                ("heightMm", Height, size.Height),
            }
        )
        {
            vehicle[field] = Number(typed, "vehicle." + field, k) ?? standard * 1000;
        }

        o["vehicle"] = vehicle;
        o["goal"] = Goal;
        o["house"]!.AsObject()["tyres"] = TyreLook;
        var history = new JsonObject
        {
            ["flood"] = Flood,
            ["nests"] = Nests,
            ["biological"] = Biological,
        };
        Set(history, "storage", Storage);
        Set(history, "use", Use);
        Set(history, "region", Region);
        Set(history, "brakeDust", BrakeDust);
        Add(history, "monthsSinceWash", Number(MonthsSinceWash, "history.monthsSinceWash"));
        Add(history, "coatedMonths", Number(CoatedMonths, "history.coatedMonths"));
        history["releases"] = new JsonArray([
            .. releases.Select(r =>
                (JsonNode)
                    new JsonObject
                    {
                        ["hold"] = r.Hold,
                        ["by"] = r.By,
                        ["on"] = r.On,
                    }
            ),
        ]);
        o["history"] = history;
        var site = o["site"]?.DeepClone().AsObject() ?? [];
        foreach (
            var (field, value) in new[]
            {
                ("place", Place),
                ("ground", Ground),
                ("slope", Slope),
                ("drain", Drain),
                ("water", Water),
                ("power", Power),
                ("access", Access),
            }
        )
        {
            site.Remove(field);
            Set(site, field, value);
        }

        site.Remove("shadeHours");
        Add(site, "shadeHours", ShadeNode(problems));
        site["neighboursClose"] = NeighboursClose;
        foreach (
            var (field, node) in new[]
            {
                ("waterHardnessMgL", HardnessNode(problems)),
                ("latitude", Number(Latitude, "site.latitude")),
                ("longitude", Number(Longitude, "site.longitude")),
            }
        )
        {
            site.Remove(field);
            Add(site, field, node);
        }

        o["site"] = site;
        var read = SurveyFormat.Read(System.Text.Encoding.UTF8.GetBytes(o.ToJsonString()));
        problems.AddRange(read.Problems);
        return problems.Count == 0 ? read.Value : null;
    }

    /// <summary>Contact and wishes as records; problems for what does not hold.</summary>
    public (Contact Contact, DateOnly Day, string Story, IntakeWishes Wishes) ToIntake(
        IntakeWishes before,
        string staffId,
        DateTimeOffset now,
        List<Problem> problems
    )
    {
        string Text(string? value, string field, int most, bool needed = false)
        {
            var t = value?.Trim() ?? "";
            if (needed && t.Length == 0)
            {
                problems.Add(new Problem(field, "is missing"));
            }

            if (t.Length > most)
            {
                problems.Add(new Problem(field, $"is {t.Length} characters, at most {most}"));
            }

            return t;
        }

        DateOnly? Date(string? value, string field)
        {
            if (string.IsNullOrWhiteSpace(value))
            {
                return null;
            }

            if (
                DateOnly.TryParseExact(value, "yyyy-MM-dd", CultureInfo.InvariantCulture, DateTimeStyles.None, out var d)
                && d.Year is > 2000 and < 2100
            )
            {
                return d;
            }

            problems.Add(new Problem(field, "is not a date"));
            return null;
        }

        decimal? budget = null;
        if (!string.IsNullOrWhiteSpace(Budget))
        {
            if (
                decimal.TryParse(Budget.Trim().Replace(',', '.'), NumberStyles.Number, CultureInfo.InvariantCulture, out var b)
                && b is >= 0 and <= 1_000_000
            )
            {
                budget = b;
            }
            else
            {
                problems.Add(new Problem("budget", "must be a number from 0 to 1000000"));
            }
        }

        if (!string.IsNullOrWhiteSpace(Email) && !Email.Contains('@'))
        {
            problems.Add(new Problem("email", "has no @"));
        }

        string? Null(string t) => t.Length == 0 ? null : t;
        var contact = new Contact(
            Text(Client, "client", 80, true),
            Null(Text(Phone, "phone", 40)),
            Null(Text(Email, "email", 120)),
            Text(Vehicle, "vehicle", 80, true),
            Text(Plate, "registration", 20, true)
        );
        var consentNew = Consent && !before.Consent;
        var wishes = new IntakeWishes(
            Null(NextUse ?? ""),
            Date(SaleDate, "sale date"),
            TyreLook,
            ScentFree,
            Null(Text(LeaveAlone, "leave alone", 300)),
            budget,
            Consent,
            Consent
                ? consentNew
                    ? staffId
                    : before.ConsentBy
                : null,
            Consent
                ? consentNew
                    ? now
                    : before.ConsentAt
                : null,
            Null(Text(Notes, "notes", 2000))
        );
        return (contact, Date(Day, "day") ?? DateOnly.FromDateTime(now.DateTime), Text(Story, "story", 200), wishes);
    }

    private JsonArray? ShadeNode(List<Problem> problems)
    {
        if (string.IsNullOrWhiteSpace(Shade))
        {
            return null;
        }

        var spans = new JsonArray();
        foreach (var part in Shade.Split([',', ';'], StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
        {
            var ends = part.Split('-', '–');
            if (
                ends.Length == 2
                && double.TryParse(ends[0].Trim(), NumberStyles.Float, CultureInfo.InvariantCulture, out var from)
                && double.TryParse(ends[1].Trim(), NumberStyles.Float, CultureInfo.InvariantCulture, out var to)
            )
            {
                spans.Add(new JsonArray(from, to));
            }
            else
            {
                problems.Add(
                    new Problem("shade", $"'{(part.Length > 30 ? part[..30] + "…" : part)}' is not a span of hours: write 8-11, 15-18.5")
                );
            }
        }

        return spans;
    }

    private JsonNode? HardnessNode(List<Problem> problems)
    {
        if (string.IsNullOrWhiteSpace(Hardness))
        {
            return null;
        }

        if (
            !double.TryParse(Hardness.Trim().Replace(',', '.'), NumberStyles.Float, CultureInfo.InvariantCulture, out var v)
            || !double.IsFinite(v)
            || v < 0
        )
        {
            problems.Add(new Problem("site.waterHardnessMgL", "must be a number, 0 or more"));
            return null;
        }

        if (WaterHardness.Units.All(u => u.Id != HardnessUnit))
        {
            problems.Add(new Problem("hardness unit", "is not known", WaterHardness.Units.Select(u => u.Id).ToArray()));
            return null;
        }

        return Math.Round(WaterHardness.MgPerLitre(v, HardnessUnit), 1);
    }

    private static void Set(JsonObject o, string field, string? value)
    {
        if (!string.IsNullOrEmpty(value))
        {
            o[field] = value;
        }
    }

    private static void Add(JsonObject o, string field, JsonNode? value)
    {
        if (value is not null)
        {
            o[field] = value;
        }
    }
}
