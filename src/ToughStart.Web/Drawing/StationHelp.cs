namespace ToughStart.Web.Drawing;

/// <summary>What a station is for, in one picture and a few sentences.</summary>
/// <param name="Does">What to do here, in order.</param>
public sealed record StationHelp(string Picture, string Says, IReadOnlyList<string> Does)
{
    /// <summary>Null where a page needs none.</summary>
    public static StationHelp? Of(string? station) => station is not null && All.TryGetValue(station, out var help) ? help : null;

    private const string Car =
        "<path class=\"help-fill\" d=\"M60 78q2 -18 22 -20l26 -22h52l30 22q26 2 28 20v6H60Z\"/><circle class=\"help-fill\" cx=\"96\" cy=\"84\" r=\"13\"/><circle class=\"help-fill\" cx=\"184\" cy=\"84\" r=\"13\"/>";

    private static string Svg(string inside) => $"<svg viewBox=\"0 0 280 110\" aria-hidden=\"true\">{inside}</svg>";

    private static readonly Dictionary<string, StationHelp> All = new()
    {
        ["yard"] = new(
            Svg(
                "<g transform=\"scale(.42) translate(-30 20)\">"
                    + Car
                    + "</g><g transform=\"scale(.42) translate(190 20)\">"
                    + Car
                    + "</g><g transform=\"scale(.42) translate(410 20)\">"
                    + Car
                    + "</g><path class=\"help-line\" d=\"M10 78H268\"/><path class=\"help-line\" d=\"M20 92l10 0m60 0h10m60 0h10\"/>"
            ),
            "Every vehicle of the shop, today's first.",
            [
                "Find one by name, registration, client or number.",
                "A vehicle opens where its work stands. What etches stands first, with its clock.",
            ]
        ),
        ["intake"] = new(
            Svg(Car + "<path class=\"help-line\" d=\"M18 20h34v50H18Zm6 12h22m-22 10h22m-22 10h14\"/>"),
            "Who, what, where it stood and where you wash it.",
            [
                "Name, vehicle and registration are needed; everything else may stay unsaid.",
                "Flood, nests and unknown brake dust hold the vehicle until a named person releases it.",
            ]
        ),
        ["quote"] = new(
            Svg(
                "<path class=\"help-line\" d=\"M20 96H260M24 96V88H44V78H70V66H100V52H136V40H170V30H210V22H250\"/><path"
                    + " class=\"help-line\" d=\"M150 10V100\"/>"
            ),
            "What it costs, how sure that is, and what the client may choose.",
            [
                "The curve is a hundred such jobs. The post is the quote: seven in ten cost that or less.",
                "Keep a version and send it by a link: the client chooses, and takes it by name.",
            ]
        ),
        ["timeline"] = new(
            Svg(
                "<path class=\"help-line\" d=\"M10 30H60V70H110V30H150V90H200V50H262\"/><path class=\"help-fill\" d=\"M60 98L72"
                    + " 76L130 88L134 98Z\"/><path class=\"help-line\" d=\"M150 98V76\"/>"
            ),
            "Who does what when, and what has to be rinsed by when.",
            [
                "Ropes are people: upright they walk. Wedges are wet; the post is the latest rinse.",
                "Drag a task, or set who is here: the rest gives way, and nothing dries.",
            ]
        ),
        ["survey"] = new(
            Svg(
                Car
                    + "<circle class=\"help-dirt\" cx=\"120\" cy=\"66\" r=\"5\"/><circle class=\"help-dirt\" cx=\"136\" cy=\"70\" r=\"4\"/><circle class=\"help-dirt\" cx=\"108\" cy=\"72\" r=\"4\"/><path class=\"help-line\" d=\"M150 26l24 -16m-24 16l-12 16\"/>"
            ),
            "Paint on the unfolded vehicle what sits where, and how much.",
            [
                "Pick up a brush: what sits there, then how much. Tap zones. The same brush again, or Escape, puts it down.",
                "Grade 0 says that you looked and found none. What nobody looked at never counts as clean.",
            ]
        ),
        ["day"] = new(
            Svg(
                Car
                    + "<circle class=\"help-hot\" cx=\"40\" cy=\"22\" r=\"11\"/><path class=\"help-line\" d=\"M56 30l34 18m-40 -10l28 34\"/>"
            ),
            "How long every panel stays wet through the day, and when to start.",
            ["Give place, start and air, or take a kept place.", "Slide to an hour; red panels dry before the product has worked."]
        ),
        ["plan"] = new(
            Svg(
                "<path class=\"help-fill\" d=\"M14 14h26v82H14Z\"/><path class=\"help-dirt\" d=\"M14 14h26v30H14Z\"/><path class=\"help-line\" d=\"M52 30h30v20h30v18h30v16h30v12\"/><text class=\"help-text\" x=\"60\" y=\"26\">1</text><text class=\"help-text\" x=\"92\" y=\"46\">2</text><text class=\"help-text\" x=\"122\" y=\"64\">3</text><path class=\"help-line\" d=\"M46 96H268\" stroke-dasharray=\"6 4\"/>"
            ),
            "The work in order, with what each step leaves.",
            [
                "Choose a step for where, why, with what and until when. What stays undone stands at the top.",
                "Put it in force when you start; then nothing changes it unasked.",
            ]
        ),
        ["mix"] = new(
            Svg(
                "<path class=\"help-fill\" d=\"M40 96V44q0 -10 10 -14V20h14v10q10 4 10 14v52Z\"/><path class=\"help-hot\" d=\"M42 78h30v16H42Z\"/><path class=\"help-fill\" d=\"M120 40h60l-8 56h-44Z\"/><path class=\"help-fill\" d=\"M206 40h60l-8 56h-44Z\"/><text class=\"help-text\" x=\"128\" y=\"34\">wash</text><text class=\"help-text\" x=\"212\" y=\"34\">rinse</text>"
            ),
            "What to pour into which container, for the whole job.",
            [
                "Water first, product into the water. Wheels keep their own bucket.",
                "Write down what was mixed, and stick the label on before you put it down.",
            ]
        ),
        ["card"] = new(
            Svg(
                "<path class=\"help-fill\" d=\"M90 8h100v96H90Z\"/><path class=\"help-line\" d=\"M102 24h76m-76 16h50m-50 16h60m-60 16h44\"/><path class=\"help-line\" d=\"M166 82h14v14h-14Z\"/>"
            ),
            "The plan on paper for the bay.",
            [
                "Print it on A4 or Letter. Black zones on the small drawing say where.",
                "Write what you saw into the box of each round, and bring it back to Results.",
            ]
        ),
        ["results"] = new(
            Svg(Car + "<path class=\"help-line\" d=\"M226 30l10 12l24 -28\" stroke-width=\"5\"/>"),
            "What was done and seen.",
            [
                "Say rounds and what you saw; leave what was not done empty. Could not tell is an answer.",
                "A slip is taken back under On record, as long as nothing was built on it.",
            ]
        ),
        ["tests"] = new(
            Svg(Car + "<path class=\"help-line\" d=\"M130 20q-2 22 6 34m10 -34q2 20 2 32m12 -30q4 18 -2 34\"/>"),
            "Small looks that decide much work.",
            [
                "The first would change the plan most. Tick the zones where you made it, in the list or on the drawing.",
                "What you see is narrowed to a few words; could not tell is one of them.",
            ]
        ),
        ["gate"] = new(
            Svg(Car + "<path class=\"help-line\" d=\"M18 18l34 22m-26 -34l30 26M12 34l34 12\"/>"),
            "Proven, or not: panel by panel, dry, under the lamp.",
            [
                "The numbers are a walk round the vehicle: what is missing, and where. Not looked is not clean.",
                "A second look counts on another spot; better by somebody else. Could not tell comes again.",
                "Somebody may judge otherwise, by name and with a reason; both stay.",
            ]
        ),
        ["handover"] = new(
            Svg(Car + "<path class=\"help-line\" d=\"M206 30q14 -10 28 0t28 0M206 44q14 -10 28 0t28 0\"/>"),
            "What goes on where, in which order, and what was really put on.",
            [
                "Groups of zones that are treated alike. The next act stands in bold; say when it is done.",
                "Protection that would not hold is refused: wipe first, let a layer cure, strip what lies there.",
                "What was put on says when it is renewed, and the next visit's plan knows of it.",
            ]
        ),
        ["report"] = new(
            Svg(
                "<path class=\"help-fill\" d=\"M90 8h100v96H90Z\"/><path class=\"help-line\" d=\"M102 26h40m-40 14h70m-70 14h70m-70 14h52\"/>"
            ),
            "What the client gets to see.",
            [
                "Print it, or make a link that runs out; a link shows no name unless you choose so.",
                "A link is shown once. Taken back, it opens nothing any more.",
            ]
        ),
        ["logbook"] = new(
            Svg(
                "<path class=\"help-fill\" d=\"M40 14h26v84H40Zm60 22h26v62h-26Zm60 -10h26v72h-26Zm60 30h26v42h-26Z\"/><path class=\"help-line\" d=\"M20 98H268\"/>"
            ),
            "Every closed job, and every vehicle over the years.",
            [
                "Find by vehicle, client, product or person; keep a search by name.",
                "A vehicle opens its cores: what lay there at each visit, what took it, what was put on.",
                "A job's log goes out as lines or as a table and comes in again without loss.",
            ]
        ),
        ["learning"] = new(
            Svg("<path class=\"help-fill\" d=\"M20 14L260 44V62L20 96Z\"/><path class=\"help-line\" d=\"M20 58L120 60L260 53\"/>"),
            "What the shop's own jobs say against the book.",
            [
                "A proposal shows how many jobs speak for it, how surely, and what it changes in the next plan.",
                "Nothing counts until an owner agrees; everything can be undone and stays on record.",
            ]
        ),
        ["close"] = new(
            Svg(Car + "<path class=\"help-line\" d=\"M232 60a12 12 0 1 1 .1 0m-8 8v26m0 -8h8m-8 -8h8\"/>"),
            "What was used leaves the shelf, and the vehicle leaves the yard.",
            ["What is still open is listed; close over it only if you mean it.", "An owner can open a closed job again, with a reason."]
        ),
    };
}
