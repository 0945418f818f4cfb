using System.CommandLine;
using System.Text;
using System.Text.Json;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;

namespace ToughStart.Cli;

/// <summary>The same engine from a terminal: documents in, documents out.</summary>
public static class Program
{
    public static int Main(string[] args)
    {
        Console.OutputEncoding = Encoding.UTF8;
        var root = new RootCommand("Tough Start: staged decontamination of neglected vehicles")
        {
            PlanCommand(),
            CompareCommand(),
            FlipsCommand(),
            TimelineCommand.Make(ReadFile, Fail),
            QuoteCommand.Quote(ReadFile, Fail),
            QuoteCommand.Range(ReadFile, Fail),
            MixCommand(),
            LanceCommand(),
            NozzleCommand(),
            PhCommand(),
            HardnessCommand(),
            CompatibilityCommand(),
            WindowCommand(),
            DocsCommand(),
        };
        return root.Parse(args).Invoke();
    }

    private static Command PlanCommand()
    {
        var file = new Argument<string>("file") { Description = "a toughstart.survey/1 document, or - for standard input" };
        var json = new Option<bool>("--json") { Description = "print toughstart.plan/2" };
        var proof = new Option<bool>("--proof") { Description = "say how near it is to the best there is" };
        var command = new Command("plan", "Compute the plan of a survey") { file, json, proof };
        command.SetAction(result =>
        {
            var name = result.GetValue(file)!;
            if (name != "-" && !File.Exists(name))
            {
                return Fail($"{name}: no such file");
            }

            using var input = name == "-" ? Console.OpenStandardInput() : File.OpenRead(name);
            using var bytes = new MemoryStream();
            input.CopyTo(bytes);
            var survey = SurveyFormat.Read(bytes.ToArray());
            if (!survey.Ok)
            {
                return Fail(string.Join('\n', survey.Problems));
            }

            var plan = Planner.Plan(survey.Value!);
            plan = plan with { Buy = Buying.Of(survey.Value!, plan), Proof = result.GetValue(proof) ? Planner.Prove(survey.Value!) : null };
            Console.WriteLine(result.GetValue(json) ? Encoding.UTF8.GetString(PlanFormat.Write(plan)) : PlanText.Of(plan, survey.Value!));
            return 0;
        });
        return command;
    }

    private static Checked<Survey> ReadFile(string name)
    {
        if (name != "-" && !File.Exists(name))
        {
            return new(null, [new Problem(name, "no such file")]);
        }

        using var input = name == "-" ? Console.OpenStandardInput() : File.OpenRead(name);
        using var bytes = new MemoryStream();
        input.CopyTo(bytes);
        return SurveyFormat.Read(bytes.ToArray());
    }

    private static Command CompareCommand()
    {
        var (first, second) = (
            new Argument<string>("first") { Description = "a toughstart.survey/1 document" },
            new Argument<string?>("second")
            {
                Description = "another one; without it, the first with what the options change",
                Arity = ArgumentArity.ZeroOrOne,
            }
        );
        var (house, goal) = (
            new Option<string[]>("--house") { Description = "rule=value, as often as wanted", AllowMultipleArgumentsPerToken = true },
            new Option<string?>("--goal") { Description = "wash, sale, protect or correct" }
        );
        var (start, lean) = (
            new Option<string?>("--start") { Description = "another start, with its zone" },
            new Option<string?>("--lean") { Description = "gentler, faster or cheaper" }
        );
        var (without, stock) = (
            new Option<string[]>("--without")
            {
                Description = "a treatment, or a stage, that is refused; as often as wanted",
                AllowMultipleArgumentsPerToken = true,
            },
            new Option<bool>("--shelf-only") { Description = "no more of any bottle than there is" }
        );
        var json = new Option<bool>("--json") { Description = "print toughstart.compare/1" };
        var command = new Command("compare", "Two plans side by side, differences only")
        {
            first,
            second,
            house,
            goal,
            start,
            lean,
            without,
            stock,
            json,
        };
        command.SetAction(result =>
        {
            var a = ReadFile(result.GetValue(first)!);
            if (!a.Ok)
            {
                return Fail(string.Join('\n', a.Problems));
            }

            var body = new System.Text.Json.Nodes.JsonObject();
            if (result.GetValue(second) is { } other)
            {
                var b = ReadFile(other);
                if (!b.Ok)
                {
                    return Fail(string.Join('\n', b.Problems));
                }

                (body["a"], body["b"]) = (
                    System.Text.Json.Nodes.JsonNode.Parse(SurveyFormat.Write(a.Value!)),
                    System.Text.Json.Nodes.JsonNode.Parse(SurveyFormat.Write(b.Value!))
                );
            }
            else
            {
                body["survey"] = System.Text.Json.Nodes.JsonNode.Parse(SurveyFormat.Write(a.Value!));
                if (result.GetValue(house) is { Length: > 0 } rules)
                {
                    body["house"] = new System.Text.Json.Nodes.JsonObject(
                        rules
                            .Select(r => r.Split('=', 2))
                            .Where(r => r.Length == 2)
                            .Select(r => KeyValuePair.Create(r[0], (System.Text.Json.Nodes.JsonNode?)r[1]))
                    );
                }

                if (result.GetValue(without) is { Length: > 0 } refused)
                {
                    body["declines"] = new System.Text.Json.Nodes.JsonArray([
                        .. refused.Select(r =>
                            (System.Text.Json.Nodes.JsonNode)
                                new System.Text.Json.Nodes.JsonObject
                                {
                                    [Stage.Refusable.Contains(Stage.Maybe(r)) ? "stage" : "treatment"] = r,
                                }
                        ),
                    ]);
                }

                if (result.GetValue(stock))
                {
                    body["stockOnly"] = true;
                }

                foreach (
                    var (field, value) in new[]
                    {
                        ("goal", result.GetValue(goal)),
                        ("start", result.GetValue(start)),
                        ("lean", result.GetValue(lean)),
                    }
                )
                {
                    if (value is not null)
                    {
                        body[field] = value;
                    }
                }
            }

            var read = CompareFormat.Read(JsonSerializer.SerializeToElement(body));
            if (!read.Ok)
            {
                return Fail(string.Join('\n', read.Problems));
            }

            var comparison = PlanCompare.Of(Planner.Plan(read.Value!.A), Planner.Plan(read.Value.B));
            if (result.GetValue(json))
            {
                Console.WriteLine(Encoding.UTF8.GetString(CompareFormat.Write(comparison)));
                return 0;
            }

            Console.WriteLine(comparison.Words);
            foreach (var t in comparison.Totals.Where(t => Math.Abs(t.By) >= 0.05))
            {
                Console.WriteLine(FormattableString.Invariant($"  {t.What}: {t.First:0.#} → {t.Second:0.#} {t.Unit}"));
            }

            foreach (var d in comparison.Work)
            {
                Console.WriteLine(
                    $"  {d.Stage} on {string.Join(", ", d.Zones.Take(4))}{(d.Zones.Count > 4 ? $" and {d.Zones.Count - 4} more" : "")}: {d.First ?? "nothing"} → {d.Second ?? "nothing"}"
                );
            }

            foreach (var l in comparison.Lines)
            {
                Console.WriteLine($"  {(l.InSecond ? "+" : "−")} {l.Kind}: {l.Words}");
            }

            return 0;
        });
        return command;
    }

    private static Command FlipsCommand()
    {
        var file = new Argument<string>("file") { Description = "a toughstart.survey/1 document, or - for standard input" };
        var command = new Command("flips", "What would change the plan: each finding a grade worse or better") { file };
        command.SetAction(result =>
        {
            var survey = ReadFile(result.GetValue(file)!);
            if (!survey.Ok)
            {
                return Fail(string.Join('\n', survey.Problems));
            }

            foreach (var flip in Flips.Of(survey.Value!))
            {
                Console.WriteLine(FormattableString.Invariant($"{flip.Words} ({Signed.Of(flip.Minutes, 1)} min)"));
            }

            return 0;
        });
        return command;
    }

    private static Command MixCommand()
    {
        var strength = new Argument<string?>("strength")
        {
            Description = "1:9, 10:1, 1 in 10, 2 %, 30 ml per l, 50 ml in 450 ml, 100 ml in a lance two-thirds full, neat",
            Arity = ArgumentArity.ZeroOrOne,
        };
        var (total, product, water) = (
            Number("--total", "ml to make"),
            Number("--product", "ml of product"),
            Number("--water", "ml of water")
        );
        var (capful, container, draw) = (
            Number("--capful", "ml in one capful of this bottle"),
            Number("--container", "ml the container holds"),
            Number("--lance", "draw ratio of the lance: what to put into its bottle for this strength on the panel")
        );
        var (jug, rest) = (Number("--jug", "smallest mark of the jug, ml"), Number("--rest", "ml already in the bottle: top it up"));
        var restStrength = new Option<string?>("--rest-strength") { Description = "how strong the rest is; unknown when nobody knows" };
        var bottles = new Option<double[]>("--into") { Description = "containers at hand, ml each", AllowMultipleArgumentsPerToken = true };
        var agent = new Option<string?>("--agent") { Description = "agent class, for what to wear and what it must not meet" };
        return Calculator(
            "mix",
            "Amounts for a strength, in any notation",
            [strength, total, product, water, capful, container, draw, jug, rest, restStrength, bottles, agent],
            r =>
                Calculators.Mix(
                    new MixRequest(
                        r.GetValue(strength),
                        r.GetValue(total),
                        r.GetValue(product),
                        r.GetValue(water),
                        r.GetValue(capful),
                        r.GetValue(container),
                        r.GetValue(draw),
                        r.GetValue(jug),
                        r.GetValue(rest),
                        r.GetValue(restStrength),
                        r.GetValue(bottles) is { Length: > 0 } list ? list : null,
                        r.GetValue(agent)
                    )
                ),
            a => [.. a.Words, .. a.Safety.Count > 1 ? a.Safety : []]
        );
    }

    private static Command LanceCommand()
    {
        var (ml, seconds, flow) = (
            Number("--ml", "ml of water drawn from the bottle"),
            Number("--seconds", "time it took"),
            Number("--flow", "what the washer delivers, l/min")
        );
        var caught = new Option<bool>("--caught") { Description = "the flow was caught at the lance with the bottle drawing" };
        var draw = Number("--draw", "a known draw ratio");
        var (panel, bottle) = (
            new Option<string?>("--panel") { Description = "strength wanted on the panel" },
            new Option<string?>("--bottle") { Description = "strength in the bottle" }
        );
        var size = Number("--bottle-ml", "ml the bottle holds");
        return Calculator(
            "lance",
            "Panel impact of a foam lance, both ways",
            [ml, seconds, flow, caught, draw, panel, bottle, size],
            r =>
                Calculators.Lance(
                    new LanceRequest(
                        r.GetValue(ml) is { } v
                            ? [new LanceTrial(v, r.GetValue(seconds) ?? 0, r.GetValue(flow) ?? 0, r.GetValue(caught))]
                            : null,
                        r.GetValue(draw),
                        r.GetValue(panel),
                        r.GetValue(bottle),
                        r.GetValue(flow),
                        r.GetValue(size)
                    )
                ),
            a => a.Words
        );
    }

    private static Command NozzleCommand()
    {
        var (size, flow, angle) = (
            Number("--size", "size number: US gallons a minute at 4 000 psi"),
            Number("--flow", "l/min, instead of the size"),
            Number("--angle", "fan angle in degrees, 40 when not said")
        );
        var (psi, mpa, bar, cm) = (
            Number("--psi", "pressure in psi"),
            Number("--mpa", "pressure in MPa"),
            Number("--bar", "pressure in bar"),
            Number("--cm", "distance, 30 cm when not said")
        );
        return Calculator(
            "nozzle",
            "Flow, fan, force and safe stand-off",
            [size, flow, angle, psi, mpa, bar, cm],
            r =>
                Calculators.Nozzle(
                    new NozzleRequest(
                        r.GetValue(size),
                        r.GetValue(flow),
                        r.GetValue(angle),
                        r.GetValue(psi),
                        r.GetValue(mpa),
                        r.GetValue(bar),
                        r.GetValue(cm)
                    )
                ),
            a => [.. a.Words, .. a.StandOff.Select(s => $"  {s.Name}: {(s.ClosestCm is { } d ? $"{d:0} cm" : "never")} ({s.Reason})")]
        );
    }

    private static Command PhCommand()
    {
        var (ph, strength) = (
            new Argument<double>("ph") { Description = "pH of the neat product" },
            new Argument<string>("strength") { Description = "how it is diluted" }
        );
        return Calculator(
            "ph",
            "The mildest a dilution's pH can be",
            [ph, strength],
            r => Calculators.Ph(new PhRequest(r.GetValue(ph), r.GetValue(strength))),
            a => a.Words
        );
    }

    private static Command HardnessCommand()
    {
        var (value, unit, film) = (
            new Argument<double>("value") { Description = "as the strip or meter shows it" },
            new Option<string?>("--unit") { Description = "mg-l, dh, fh, eh or gpg" },
            Number("--film", "µm of water left to dry")
        );
        return Calculator(
            "hardness",
            "Class of water and what it leaves",
            [value, unit, film],
            r => Calculators.Hardness(new HardnessRequest(r.GetValue(value), r.GetValue(unit), r.GetValue(film))),
            a => a.Words
        );
    }

    private static Command CompatibilityCommand()
    {
        var agent = new Argument<string>("agent") { Description = "agent class" };
        var (surface, after, strength) = (
            new Option<string?>("--on") { Description = "surface" },
            new Option<string?>("--after") { Description = "agent that was there before" },
            new Option<string?>("--strength") { Description = "on the panel" }
        );
        var film = Number("--film", "film temperature, °C");
        var (kept, spot) = (
            new Option<bool>("--protected") { Description = "there is protection to keep" },
            new Option<bool>("--test-spot-passed")
        );
        return Calculator(
            "compatibility",
            "May it go there, and why",
            [agent, surface, after, strength, film, kept, spot],
            r =>
                Calculators.Compatibility(
                    new CompatibilityRequest(
                        r.GetValue(agent),
                        r.GetValue(surface),
                        r.GetValue(after),
                        r.GetValue(strength),
                        r.GetValue(film),
                        r.GetValue(kept),
                        r.GetValue(spot)
                    )
                ),
            a => [a.Ruling, .. a.Reasons.Select(b => $"  {b.Words} [{b.Table}]")]
        );
    }

    private static Command WindowCommand()
    {
        var (air, humidity, wind, cloud) = (
            Number("--air", "air temperature, °C"),
            Number("--humidity", "relative humidity, %"),
            Number("--wind", "wind at the panel, m/s"),
            Number("--cloud", "oktas, 0 to 8")
        );
        var (lat, lon, tilt, faces) = (
            Number("--lat", "latitude"),
            Number("--lon", "longitude"),
            Number("--tilt", "0 level, 90 upright"),
            Number("--faces", "bearing the panel looks to")
        );
        var dwell = Number("--dwell", "s; then also how many panels at once");
        var (panel, sky, film) = (
            Number("--panel", "measured panel temperature, °C"),
            Number("--sky", "open part of the sky, 0 to 1"),
            Number("--film", "retained film against the model, from a calibration")
        );
        var (carrier, at, colour) = (
            new Option<string?>("--carrier") { Description = "mist, spray, thin-foam, thick-foam or gel" },
            new Option<string?>("--at") { Description = "time with its zone" },
            new Option<string?>("--colour") { Description = "paint, #rrggbb" }
        );
        var sun = new Option<bool>("--sun") { Description = "direct sun reaches it" };
        return Calculator(
            "window",
            "How long a film stays wet",
            [carrier, air, humidity, wind, cloud, lat, lon, at, sun, sky, tilt, faces, colour, panel, film, dwell],
            r =>
                Calculators.Window(
                    new WindowRequest(
                        r.GetValue(carrier),
                        r.GetValue(air),
                        r.GetValue(humidity),
                        r.GetValue(wind),
                        r.GetValue(cloud),
                        r.GetValue(lat),
                        r.GetValue(lon),
                        r.GetValue(at),
                        r.GetValue(sun),
                        r.GetValue(sky),
                        r.GetValue(tilt),
                        r.GetValue(faces),
                        r.GetValue(colour),
                        r.GetValue(panel),
                        r.GetValue(film),
                        r.GetValue(dwell)
                    )
                ),
            a => a.Words
        );
    }

    private static Option<double?> Number(string name, string words) => new(name) { Description = words };

    /// <summary>A calculator on the command line: words for people, --json for programs, problems with their field and code 1.</summary>
    private static Command Calculator<T>(
        string name,
        string words,
        IReadOnlyList<Symbol> symbols,
        Func<ParseResult, Checked<T>> compute,
        Func<T, IEnumerable<string>> say
    )
        where T : class
    {
        var json = new Option<bool>("--json") { Description = "print the answer as JSON" };
        var command = new Command(name, words) { json };
        foreach (var symbol in symbols)
        {
            if (symbol is Argument argument)
            {
                command.Add(argument);
            }
            else
            {
                command.Add((System.CommandLine.Option)symbol);
            }
        }

        command.SetAction(result =>
        {
            var answer = compute(result);
            if (!answer.Ok)
            {
                return Fail(string.Join('\n', answer.Problems));
            }

            Console.WriteLine(
                result.GetValue(json) ? JsonSerializer.Serialize(answer.Value, Written) : string.Join('\n', say(answer.Value!))
            );
            return 0;
        });
        return command;
    }

    private static readonly JsonSerializerOptions Written = new(JsonSerializerDefaults.Web) { WriteIndented = true };

    private static Command DocsCommand()
    {
        var folder = new Argument<string>("folder") { Description = "the docs folder" };
        var command = new Command("docs", "Write the documents that are made from the code") { folder };
        command.SetAction(result =>
        {
            foreach (var (path, text) in Schemas.Documents())
            {
                var file = Path.Combine(result.GetValue(folder)!, path);
                Directory.CreateDirectory(Path.GetDirectoryName(file)!);
                File.WriteAllText(file, text);
            }

            return 0;
        });
        return command;
    }

    private static int Fail(string message)
    {
        Console.Error.WriteLine(message);
        return 1;
    }
}
