using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Planning;

/// <summary>What a pass is known by from one plan of a job to the next.</summary>
/// <param name="Under">Left wet for the foam over it: a way round of its own.</param>
/// <param name="Again">All rounds after the first.</param>
public readonly record struct PassKey(Block Block, Place Slot, int Treatment, int Strength, bool Under, bool Again)
{
    /// <summary>The pass without its further rounds.</summary>
    public PassKey First => this with { Again = false };
}

/// <summary>
/// A way round the vehicle with one thing in hand: a treatment at a strength in one place of the order, on the wheels or on the body.
/// Whoever opens it lays out, walks round and waits once, however few zones it serves.
/// </summary>
/// <param name="Fee">What opening it costs, milli-minutes of cost.</param>
/// <param name="Product">What must be mixed for it; −1 = nothing.</param>
/// <param name="Group">Only one pass of a group is open in a plan; −1 = it is in none.</param>
/// <param name="First">Index of the pass whose further rounds this is; −1 = it is a first round.</param>
public sealed record Pass(int Index, PassKey Key, long Fee, int Product, int Group, int First = -1)
{
    public bool IsAgain => First >= 0;
}

/// <summary>The passes and products that zones of a job may choose from.</summary>
/// <param name="SetUps">What making each product ready costs, milli-minutes of cost.</param>
public sealed record PassBook(IReadOnlyList<Pass> Passes, IReadOnlyList<long> SetUps)
{
    /// <summary>Fees of the passes and set-ups of the products they need, each once.</summary>
    public long CostOf(PassSet used)
    {
        long sum = 0;
        Span<bool> mixed = stackalloc bool[SetUps.Count];
        foreach (var p in used.Passes())
        {
            var pass = Passes[p];
            sum += pass.Fee;
            if (pass.Product >= 0 && !mixed[pass.Product])
            {
                mixed[pass.Product] = true;
                sum += SetUps[pass.Product];
            }
        }

        return sum;
    }
}
