using System.Collections.Immutable;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Conditions;
using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Planning;

/// <summary>How long chemistry may stay on a panel: by its label, the house, and before it dries; sprays sealed under foam.</summary>
public sealed partial class ProblemBuilder
{
    /// <summary>What a panel holds when a spray waits on it for the foam that seals it.</summary>
    internal Left WaitsForFoam(Treatment spray, ZoneState z)
    {
        var start = new int[Kinds.Count];
        return LayersOn(z, start)
            .Where(l => l.Spray.Id == spray.Id)
            .Aggregate(Left.None, (flags, l) => flags == Left.None ? l.Flag : flags);
    }

    /// <summary>What is left at the start. A spray that waits for foam which is not to be had any more waits no longer.</summary>
    private static Left StillWet(ZoneProgress? progress, StageOptions[] stages)
    {
        var left = progress?.Left ?? Left.None;
        return (left & Left.Wet) != 0 && !stages.Any(s => s.Options.Any(o => (o.Needs & left & Left.Wet) != 0)) ? left & ~Left.Wet : left;
    }

    /// <summary>How long a treatment can stay on a zone, and what that is worth.</summary>
    /// <param name="Tau">Dwell as a part of the label's reference.</param>
    /// <param name="Worth">What it does against the reference dwell.</param>
    /// <param name="Mists">Mistings that keep it wet.</param>
    /// <param name="Film">How it is laid on, as the drying model has it; null = drying plays no part.</param>
    /// <param name="Why">Why it is not available now; null = it is.</param>
    private readonly record struct Stay(double Tau, double Worth, Minutes Minutes, int Mists, string? Film, Objection? Why);

    /// <summary>How fast this crew puts on and rinses.</summary>
    internal CrewSpeed Speed => _survey.Kit?.Speed ?? new CrewSpeed(_c["apply-speed"], _c["rinse-speed"]);

    /// <summary>A spray and the foam that seals it: one wet film, one dwell, one rinse.</summary>
    /// <param name="Flag">What the panel holds between the two.</param>
    /// <param name="Stay">Of the foam, and of the two together.</param>
    /// <param name="SprayStay">Of the spray: as long as the foam over it.</param>
    private sealed record Layer(Treatment Spray, Treatment Foam, Left Flag, Stay Stay, Stay SprayStay);

    /// <summary>
    /// The sprays that can be sealed under foam here: where foam follows the spray, the label's longest dwell of both and the window of
    /// both films allow it.
    /// </summary>
    private Layer[] LayersOn(ZoneState z, int[] start)
    {
        if (_graph.Position(Place.Foam) != _graph.Position(Place.Spray) + 1 || _survey.Rule("prewashDwell") == "rinse-at-once")
        {
            return [];
        }

        bool Fits(Treatment t) =>
            t.SuitsFamily(z.Family)
            && Offered(t, start)
            && t.Removes.Any(r => start[r.Kind] < Levels.Nil && start[r.Kind] < FloorLevel(r.Floor))
            && _limits.Judge(t, z).Allowed;
        var foams = _bySlot[_c.Slot(Place.Foam).Index].Where(Fits).ToArray();
        var layers = new List<Layer>();
        var window = z.Window(Sealed);
        var speed = Speed with { Apply = Speed.Apply / 2 };
        double Minutes(Treatment spray, Treatment foam) =>
            Math.Min(
                Math.Min(spray.Agent.MaxDwell, foam.Agent.Dwell),
                window is { } w
                    ? Math.Max(0, w.UsableSeconds - speed.Reserve(Math.Min(z.Zone.Area, Sections.LeastPiece))) / 60
                    : double.MaxValue
            );
        var sprays = _bySlot[_c.Slot(Place.Spray).Index];
        for (var i = 0; i < sprays.Length && foams.Length > 0; i++)
        {
            var spray = sprays[i];
            if (!Fits(spray))
            {
                continue;
            }

            // The same bit for the same spray and stay, whatever else is offered: a run finds its way by it.
            var stays = _bySlot[_c.Slot(Place.Foam).Index].Select(f => Minutes(spray, f)).Distinct().ToList();
            foreach (var foam in foams)
            {
                var minutes = Minutes(spray, foam);
                var flag = (Left)((int)Left.FirstWet << (i * 4 + stays.IndexOf(minutes)));
                var stay = Worth(foam.Agent, minutes, 0, window is null ? null : Sealed);
                var below = Worth(spray.Agent, minutes, 0, null);
                if ((stay.Why ?? below.Why) is null)
                {
                    layers.Add(new(spray, foam, flag, stay, below));
                }
            }
        }

        return [.. layers];
    }

    /// <summary>How the drying model knows a spray under foam.</summary>
    internal const string Sealed = "foam-over-spray";

    /// <summary>Is the foam rinsed off before anything touches?</summary>
    private bool RinsesFoam => _survey.Rule("rinseFoamBeforeContact") == "true";

    /// <summary>The label's dwell, the house's, and what the panel allows before it dries.</summary>
    private Stay StayOf(Treatment t, ZoneState z)
    {
        var agent = t.Agent;
        Minutes wanted =
            t.In(Place.Spray) && _survey.Rule("prewashDwell") == "rinse-at-once" && agent.Dwell > _c["rinse-at-once"]
                ? _c["rinse-at-once"]
                : agent.Dwell;
        if (agent.Dwell <= 0 || SiteConditions.CarrierOf(agent) is not { } carrier || z.Window(carrier) is not { } window)
        {
            return Worth(agent, wanted, 0, null);
        }

        // A piece of the panel has to be put on and rinsed within its window too.
        var reserve = Speed.Reserve(Math.Min(z.Zone.Area, Sections.LeastPiece));
        double Usable(ZoneWindow w) => Math.Max(0, w.UsableSeconds - reserve) / 60;
        var usable = Usable(window);
        if (usable >= wanted)
        {
            return Worth(agent, wanted, 0, carrier);
        }

        // A lance lays thicker foam before anyone mists again.
        if (carrier == "thin-foam" && agent.Vessel == "lance" && z.Window("thick-foam") is { } thick)
        {
            (carrier, window, usable) = ("thick-foam", thick, Usable(thick));
            if (usable >= wanted)
            {
                return Worth(agent, wanted, 0, carrier);
            }
        }

        // Never for acid, caustic, solvent; the label says of the rest.
        if (agent.MayReMist && agent.Axis is { IsHarsh: false } && window.FirstDry >= _c["remist-least"])
        {
            var again = window.UsableSeconds / 60;
            var mists = Math.Min((int)_c["remist-most"], (int)Math.Ceiling((wanted - usable) / again));
            return Worth(agent, Math.Min(wanted, usable + again * mists), mists, carrier);
        }

        return Worth(agent, usable, 0, carrier);
    }

    /// <summary>What a stay of so many minutes is worth against the label's reference.</summary>
    private Stay Worth(Agent agent, double minutes, int mists, string? film)
    {
        var tau = agent.Dwell <= 0 ? 1 : minutes / agent.Dwell;
        var worth = agent.Dwell <= 0 ? 1 : (1 - Math.Exp(-2 * Math.Min(1, tau))) / (1 - Math.Exp(-2));
        return new(tau, worth, minutes, mists, film, worth >= _c["dwell-worth"] ? null : new Objection(Cause.DriesTooSoon, agent.Name));
    }
}
