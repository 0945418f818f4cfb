using System.Collections.Immutable;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Contamination;
using ToughStart.Core.Planning;

namespace ToughStart.Core.Running;

/// <summary>
/// Folds the log of a run into what is believed of every zone. Nothing is planned here: an entry moves the beliefs of the zones it names
/// by the one transition every other part uses, and multiplies them by what was seen.
/// </summary>
public static class Run
{
    /// <summary>Takes in one entry; an id that is known already changes nothing.</summary>
    public static RunState Fold(RunState state, RunEntry entry) => Fold(state, [entry]);

    /// <summary>Takes in entries in their order.</summary>
    public static RunState Fold(RunState state, IEnumerable<RunEntry> entries)
    {
        var (zones, known, notes) = (state.Zones.ToBuilder(), state.Known.ToBuilder(), state.Notes.ToBuilder());
        var rounds = new Dictionary<(LoadBelief, double, double, double), LoadBelief>();
        foreach (var entry in entries.Where(e => known.Add(e.Observation.Id)))
        {
            foreach (var id in entry.Observation.Zones.Distinct())
            {
                if (entry.Ground.Zone(id) is { } z)
                {
                    zones[id] = new ZoneFold(entry, z, zones.GetValueOrDefault(id, ZoneRun.Untouched), rounds, notes).Take();
                }
            }
        }

        return new RunState(zones.ToImmutable(), known.ToImmutable(), notes.ToImmutable());
    }

    /// <summary>
    /// Takes in a survey that was saved in the middle of the run: what was found anew is believed anew, the rest stays as the run left
    /// it.
    /// </summary>
    public static RunState Amend(RunState state, RunGround before, RunGround after)
    {
        var zones = state.Zones.ToBuilder();
        foreach (var (id, run) in state.Zones)
        {
            if (before.Zone(id) is not { } was || after.Zone(id) is not { } now)
            {
                continue;
            }

            var changed = Enumerable
                .Range(0, run.Beliefs.Length)
                .Where(k =>
                    run.Beliefs[k] is not null
                    && (was[k].Basis, was[k].Load, was[k].Sigma) != (now[k].Basis, now[k].Load, now[k].Sigma)
                    && now[k].Basis is Basis.Found or Basis.LookedNone
                )
                .ToArray();
            if (changed.Length > 0)
            {
                zones[id] = run with
                {
                    Beliefs = [.. run.Beliefs.Select((b, k) => changed.Contains(k) ? null : b)],
                    Track = [.. run.Track.Select((n, k) => changed.Contains(k) ? null : n)],
                    Looked = run.Looked.Except(changed),
                    Work = run.Work.RemoveRange(changed),
                };
            }
        }

        return state with
        {
            Zones = zones.ToImmutable(),
        };
    }

    /// <summary>
    /// What is believed of a kind on a zone now: as the run left it, else as the survey has it; null = nothing speaks for it.
    /// </summary>
    public static LoadBelief? Believed(RunState state, RunGround ground, ZoneState z, int kind) =>
        state.Of(z.Zone.Id).Beliefs[kind] ?? ground.Prior(z, kind);

    /// <summary>One zone while one entry is taken in.</summary>
    private sealed class ZoneFold(
        RunEntry entry,
        ZoneState z,
        ZoneRun before,
        Dictionary<(LoadBelief, double, double, double), LoadBelief> known,
        ImmutableList<string>.Builder notes
    )
    {
        private readonly RunGround _ground = entry.Ground;
        private readonly Observation _o = entry.Observation;
        private ZoneRun _now = before;

        /// <summary>The step it speaks of.</summary>
        private Step? _told;

        public ZoneRun Take()
        {
            // A live log names what was done; the step is a hint, and another one of the plan may do the same.
            var step = entry.Plan.Steps.FirstOrDefault(s => s.Key == _o.StepKey && (_o.Treatment is null || s.Treatment == _o.Treatment))
                ?? (_o.Treatment is null ? null : entry.Plan.Steps.FirstOrDefault(s => s.Treatment == _o.Treatment && Touches(s)));
            _told = step;
            if (step is not null && _o.Rounds > 0)
            {
                foreach (
                    var earlier in entry
                        .Plan.Steps.TakeWhile(s => !_o.Live && !ReferenceEquals(s, step))
                        .Where(s => _now.Steps.GetValueOrDefault(s.Key).Done == 0 && Touches(s))
                )
                {
                    // Work here says that the zone's earlier steps of that plan were done as planned.
                    var rounds = earlier.RoundsOn(z.Zone.Id);
                    Work(earlier, rounds, 0);
                    Count(earlier, new(0, rounds));
                }

                var done = _now.Steps.GetValueOrDefault(step.Key);
                var more = Math.Max(0, _o.Rounds - done.Implied);
                Work(step, more, _o.Dried && more > 0 ? 1 : 0);
                Count(step, new(done.Told + _o.Rounds, Math.Max(0, done.Implied - _o.Rounds)));
            }

            if (_o.Observe is { } look && _o.Result is { } answer)
            {
                See(look, answer, step);
            }

            return _now;
        }

        private static int[] Ints(ReadOnlySpan<byte> levels)
        {
            var ints = new int[levels.Length];
            for (var k = 0; k < ints.Length; k++)
            {
                ints[k] = levels[k];
            }

            return ints;
        }

        private bool Touches(Step s) => s.Stage != Stage.Dry && s.Zones.Contains(z.Zone.Id);

        private void Count(Step s, StepRounds rounds) => _now = _now with { Steps = _now.Steps.SetItem(s.Key, rounds) };

        /// <summary>Some rounds of a step, the last of which may have dried and done nothing.</summary>
        private void Work(Step step, int rounds, int dried)
        {
            var c = _ground.Catalogue;
            if (rounds <= 0 || step.Stage == Stage.Dry)
            {
                return;
            }

            if (c.FindTreatment(step.Treatment) is not { } t || c.Slots.FirstOrDefault(x => x.Id == step.Slot) is not { } slot)
            {
                var note = $"{step.Name}: this engine no longer knows it, what it did is not counted";
                if (!notes.Contains(note))
                {
                    notes.Add(note);
                }

                return;
            }

            var strength = _o.Strength is { } really && ReferenceEquals(step, _told) ? ProductFraction.Of(really) : step.Strength;
            // Clay works by itself, whatever it glides on.
            var working = t.IsClay ? t.Agent.Reference : strength;
            var minutes = _o.DwellMinutes is { } stayed && ReferenceEquals(step, _told) ? stayed : Planned(step);
            var film = ReferenceEquals(step, _told) ? _o.FilmC : null;
            var ground = _ground.Ground(z);
            var beliefs = new LoadBelief?[Kinds.Residue];
            Span<byte> levels = stackalloc byte[32];
            _now.LevelsOf(_ground, z, levels);
            for (var k = 0; k < beliefs.Length; k++)
            {
                beliefs[k] = _now.Beliefs[k] ?? _ground.Prior(z, k);
            }

            var option = _ground.Builder.Free(t, working, minutes, film, z, Ints(levels), step.Under);
            var (was, left) = (beliefs.ToArray(), _now.Left);
            for (var round = 0; round < rounds - dried; round++)
            {
                Round.Apply(ground, option, levels, beliefs, c.Response, known);
                Round.Apply(ground, option, levels, ref left);
            }

            left =
                step.Under ? left | _ground.Builder.WaitsForFoam(t, z)
                : step.On(z.Zone.Id)?.Over is null ? left
                : left & ~Left.Wet;
            var moved = Enumerable.Range(0, beliefs.Length).Where(k => !ReferenceEquals(beliefs[k], was[k])).ToArray();
            var looks = c.Senses.Where(s => s.Speaks(null).Any(moved.Contains)).Select(s => s.Look);
            var done = new WorkDone(step.Key, step.Stage, t.Id, strength, minutes, film, step.Under, false);
            _now = _now with
            {
                Beliefs = [.. beliefs.Select((b, k) => moved.Contains(k) ? b : _now.Beliefs[k])],
                Track = [.. Ints(levels).Take(Kinds.Count).Select((n, k) => k == Kinds.Residue || moved.Contains(k) ? n : _now.Track[k])],
                Left = left,
                From = Math.Max(_now.From, _ground.Graph.Position(slot.Id)),
                Rounds = _now.Rounds.SetItem(t.Id, _now.Rounds.GetValueOrDefault(t.Id) + rounds - dried),
                UsedMl = t.Agent.IsWater
                    ? _now.UsedMl
                    : _now.UsedMl.SetItem(
                        step.Agent,
                        _now.UsedMl.GetValueOrDefault(step.Agent)
                            + (rounds * ZoneWork.NeatPerRound(option with { Laid = Laid(step) }, z, strength, c))
                    ),
                Seen = _now.Seen.RemoveRange(looks),
                Work = _now.Work.SetItems(moved.Select(k => KeyValuePair.Create(k, done))),
            };
        }

        /// <summary>Minutes the plan had it stay; a spray under foam stays as long as the foam, which the plan says of the foam.</summary>
        private double? Planned(Step step) =>
            step.Under ? entry.Plan.Steps.Select(s => s.On(z.Zone.Id)).FirstOrDefault(p => p?.Over == step.Agent)?.DwellMinutes.Value
            : step.On(z.Zone.Id) is { DwellMinutes.Value: > 0 } here ? here.DwellMinutes
            : null;

        private double Laid(Step step) =>
            (step.Film == "thick-foam" ? _ground.Builder.ThickFoam : 1) * (1 + (step.Mists * _ground.Catalogue["remist-product"]));

        private void See(string look, string answer, Step? step)
        {
            var c = _ground.Catalogue;
            if (Sense.Of(look, step?.Stage, c) is not { } sense)
            {
                return;
            }

            var waits = _now.Again.GetValueOrDefault(look);
            if (answer == Observation.Inconclusive || !sense.Knows(answer))
            {
                _now = _now with
                {
                    Again = _now.Again.SetItem(look, new(look, sense.Stage, _o.Because ?? "nobody could tell", waits?.Surprise)),
                };
                return;
            }

            // The same spot again tells nothing new.
            if (!_o.Elsewhere && (waits?.Surprise == answer || _now.Seen.GetValueOrDefault(look) == answer))
            {
                return;
            }

            var answered = Answered(step);
            if (waits?.Surprise is { } first)
            {
                Hear(sense, first, answered);
                var (evidence, _) = sense.Hear(answer, answered, Believed);
                if (first == answer && evidence < c["prediction-failed"])
                {
                    StartAnew(sense, answer, answered);
                }
                else
                {
                    Hear(sense, answer, answered);
                }
            }
            else if (sense.Hear(answer, answered, Believed).Evidence < c["surprise"])
            {
                _now = _now with
                {
                    Again = _now.Again.SetItem(look, new(look, sense.Stage, "that was unlikely: look once more on another spot", answer)),
                };
                return;
            }
            else
            {
                Hear(sense, answer, answered);
            }

            _now = _now with { Again = _now.Again.Remove(look), Seen = _now.Seen.SetItem(look, answer) };
            if (sense.Kind == SenseKind.Lumps && answer == sense.Words[^1])
            {
                // Chemistry missed something there: the zone goes back to it.
                _now = _now with
                {
                    From = Math.Min(
                        _now.From,
                        sense
                            .Speaks(null)
                            .SelectMany(k => c.Treatments.Where(t => t.Removes is [var chief, ..] && chief.Kind == k))
                            .SelectMany(t => t.Slots)
                            .Min(s => _ground.Graph.Position(s.Id))
                    ),
                };
            }
        }

        private LoadBelief Believed(int kind) =>
            _now.Beliefs[kind]
            ?? _ground.Prior(z, kind)
            ?? (_ground.Catalogue.Contaminants[kind].CanSitOn(z.Family) ? _ground.Unforeseen : LoadBelief.None);

        /// <summary>Multiplies what is believed by what an answer says.</summary>
        private void Hear(Sense sense, string answer, int? answered)
        {
            var (_, says) = sense.Hear(answer, answered, Believed);
            var speaks = sense.Speaks(answered);
            var heard = says.Where(s => speaks.Contains(s.Kind) || _now.Beliefs[s.Kind] is not null || _ground.Prior(z, s.Kind) is not null)
                .ToDictionary(s => s.Kind, s => Believed(s.Kind).Seen(s.Likelihood).After);
            Look(heard, speaks);
        }

        /// <summary>What was predicted cannot be: the belief starts anew from what was seen twice.</summary>
        private void StartAnew(Sense sense, string answer, int? answered)
        {
            var c = _ground.Catalogue;
            var kind = sense.Speaks(answered)[0];
            Look(new() { [kind] = LoadBelief.LogNormal(sense.Middle(answer), c["finding-wide-sigma"]) }, [kind]);
            _now = _now with
            {
                Failed = _now.Failed.Add(
                    $"{c.Contaminants[kind].Name} on {Limits.Words(z.Zone.Id)}: {answer} twice, the prediction failed"
                ),
            };
        }

        private void Look(Dictionary<int, LoadBelief> heard, IReadOnlyList<int> speaks) =>
            _now = _now with
            {
                Beliefs = [.. _now.Beliefs.Select((b, k) => heard.GetValueOrDefault(k) ?? b)],
                Track = [.. _now.Track.Select((n, k) => heard.TryGetValue(k, out var b) ? b.Median : n)],
                Looked = _now.Looked.Union(speaks),
                Work = _now.Work.SetItems(
                    heard.Keys.Where(_now.Work.ContainsKey).Select(k => KeyValuePair.Create(k, _now.Work[k] with { Looked = true }))
                ),
            };

        /// <summary>What a step is about on this zone: what its spot work is for, and most of it lies there.</summary>
        private int? Answered(Step? step)
        {
            var t = step is null ? null : _ground.Catalogue.FindTreatment(step.Treatment);
            return t is null || t.SpotFor.Count == 0 ? null : t.SpotFor.MaxBy(k => Believed(k).Mean);
        }
    }
}
