namespace ToughStart.Core.Planning;

/// <summary>
/// How long a computation may go on. Whoever asked can leave (<paramref name="stop"/>): it ends at once with an exception. Or it has had
/// enough time (<paramref name="enough"/>): it ends with the best found so far, which then says that it is not proved, or not whole.
/// Neither ever fires in a computation that nobody bounds: the same survey then gives the same bytes.
/// </summary>
public sealed class Effort(CancellationToken stop = default, CancellationToken enough = default)
{
    /// <summary>As long as it takes.</summary>
    public static Effort Unbounded { get; } = new();

    /// <summary>Ends the computation when whoever asked has left.</summary>
    /// <exception cref="OperationCanceledException">They have.</exception>
    public void Check() => stop.ThrowIfCancellationRequested();

    /// <summary>Has it had its time?</summary>
    public bool IsEnough => enough.IsCancellationRequested;

    /// <summary>Fires when whoever asked has left.</summary>
    public CancellationToken Stop => stop;
}
