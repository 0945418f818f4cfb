using System.Text.Json;
using System.Text.RegularExpressions;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Formats;

/// <summary>The vehicle of a survey. Its size is written in millimetres and kept in metres.</summary>
internal static partial class VehiclePart
{
    private static readonly Part<VehicleInput> Fields = new Part<VehicleInput>(v =>
    {
        var form = v.Get<string>("form");
        var standard = Forms.DefaultSize(form);
        return new VehicleInput(
            form,
            new Size(
                v.Number("lengthMm") / 1000 ?? standard.Length,
                v.Number("widthMm") / 1000 ?? standard.Width,
                v.Number("heightMm") / 1000 ?? standard.Height
            ),
            v.Text("colour")?.ToLowerInvariant(),
            v.Get("softness", "unknown"),
            v.Get("powertrain", "combustion")
        )
        {
            Sheet = v.Text("sheet"),
            HotEngine = v.Flag("hotEngine"),
        };
    })
        .Called("Vehicle")
        .With("form", Hold.OneOf(Forms.Ids), v => v.Form)
        .Or("lengthMm", Millimetres(s => s.Length), v => v.Size.Length * 1000)
        .Or("widthMm", Millimetres(s => s.Width), v => v.Size.Width * 1000)
        .Or("heightMm", Millimetres(s => s.Height), v => v.Size.Height * 1000)
        .MayBe("colour", Hold.Form(Hex().IsMatch, "must be written as #rrggbb", HexPattern), v => v.Colour)
        .Or("softness", Hold.OneOf(SurveyWords.Softnesses), v => v.Softness)
        .Or("powertrain", Hold.OneOf(SurveyWords.Powertrains), v => v.Powertrain)
        .MayBe("sheet", Hold.OneOf(SurveyWords.Sheets), v => v.Sheet)
        .May("hotEngine", Hold.Flag, v => v.HotEngine)
        .Check(
            (j, v, path) =>
            {
                var (least, most) = Forms.Limits(v.Get<string>("form"));
                Within("lengthMm", least.Length, most.Length);
                Within("widthMm", least.Width, most.Width);
                Within("heightMm", least.Height, most.Height);

                void Within(string field, double low, double high)
                {
                    if (v.Number(field) is { } mm && (mm < low * 1000 || mm > high * 1000))
                    {
                        j.Fail(StrictJson.Join(path, field), Hold.Outside(mm, low * 1000, high * 1000, "mm"));
                    }
                }
            }
        );

    /// <summary>The vehicle; what is read after it can ask which zones it has.</summary>
    public static Holds<VehicleInput> One { get; } =
        Fields.One with
        {
            Read = (j, e, path) =>
            {
                var read = Fields.Read(j, e, path);
                j.Vehicle = read.Ok ? Forms.Build(read.Value.Form, read.Value.Size) : null;
                return read;
            },
        };

    private static Holds<double> Millimetres(Func<Size, double> side) =>
        Hold.Number(side(Forms.LeastOfAll) * 1000, side(Forms.MostOfAll) * 1000, 0, "mm");

    private const string HexPattern = "^#[0-9a-fA-F]{6}$";

    [GeneratedRegex(HexPattern)]
    private static partial Regex Hex();
}
