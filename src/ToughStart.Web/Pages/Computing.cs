using System.Collections.Concurrent;
using ToughStart.Core.Planning;

namespace ToughStart.Web.Stations;

/// <summary>So much is being worked out already that this has to wait for another time.</summary>
public sealed class BusyException() : Exception("so much is being worked out already that this has to wait")
{
    /// <summary>When to come again.</summary>
    public static TimeSpan After { get; } = TimeSpan.FromSeconds(5);
}

/// <summary>A job's document that the planner cannot deal with; the fault is ours, and it stays with this one job.</summary>
public sealed class CannotPlanException(Exception inner) : Exception("the planner cannot deal with this survey", inner);

/// <summary>
/// Heavy computations: at most one a core at a time, the others in a queue of bounded length; equal work is done once for all who ask;
/// what nobody waits for any more is stopped; and each has a budget of time, after which it answers with the best it has.
/// </summary>
public sealed class Computing(int cores, TimeSpan budget, int most = 32) : IDisposable
{
    private readonly SemaphoreSlim _free = new(cores, cores);
    private readonly ConcurrentDictionary<string, Flight> _flights = new();
    private int _waiting;

    /// <summary>As the machine allows; ten seconds for each computation.</summary>
    public Computing()
        : this(Math.Max(1, Environment.ProcessorCount), TimeSpan.FromSeconds(10)) { }

    /// <summary>Computations that run or wait.</summary>
    public int Load => Volatile.Read(ref _waiting);

    /// <summary>Works something out, or waits for whoever is working out the same.</summary>
    /// <param name="key">Equal keys are equal work.</param>
    /// <param name="caller">Fires when this caller leaves.</param>
    /// <exception cref="BusyException">The queue is full.</exception>
    /// <exception cref="OperationCanceledException">The caller left.</exception>
    public T Run<T>(string key, Func<Effort, T> work, CancellationToken caller)
    {
        caller.ThrowIfCancellationRequested();
        while (true)
        {
            var flight = _flights.GetOrAdd(key, _ => new Flight());
            if (!flight.Board())
            {
                // It is just landing, empty: start another.
                _flights.TryRemove(new(key, flight));
                continue;
            }

            try
            {
                flight.Start(() => Guarded(key, flight, work));
                return (T)flight.Task.WaitAsync(caller).GetAwaiter().GetResult()!;
            }
            finally
            {
                flight.Leave();
            }
        }
    }

    private object? Guarded<T>(string key, Flight flight, Func<Effort, T> work)
    {
        try
        {
            if (Interlocked.Increment(ref _waiting) > most)
            {
                throw new BusyException();
            }

            _free.Wait(flight.Stop);
            try
            {
                using var enough = new CancellationTokenSource(budget);
                return work(new Effort(flight.Stop, enough.Token));
            }
            finally
            {
                _free.Release();
            }
        }
        finally
        {
            Interlocked.Decrement(ref _waiting);
            _flights.TryRemove(new(key, flight));
        }
    }

    public void Dispose() => _free.Dispose();

    /// <summary>One computation and how many wait for it.</summary>
#pragma warning disable CA1001 // A source without a timer holds nothing to give back, and its token outlives the last who waits.
    private sealed class Flight
#pragma warning restore CA1001
    {
        private readonly CancellationTokenSource _stop = new();
        private readonly Lock _lock = new();
        private int _aboard;
        private bool _over;
        private Task<object?>? _task;

        public CancellationToken Stop => _stop.Token;

        public Task<object?> Task => _task!;

        /// <returns>False when the last one has left already.</returns>
        public bool Board()
        {
            lock (_lock)
            {
                _aboard += _over ? 0 : 1;
                return !_over;
            }
        }

        /// <summary>The first one aboard starts it, on a thread of its own: waiting callers starve nobody.</summary>
        public void Start(Func<object?> work)
        {
            lock (_lock)
            {
                _task ??= System.Threading.Tasks.Task.Factory.StartNew(
                    work,
                    CancellationToken.None,
                    TaskCreationOptions.LongRunning,
                    TaskScheduler.Default
                );
            }
        }

        public void Leave()
        {
            lock (_lock)
            {
                if (--_aboard > 0)
                {
                    return;
                }

                _over = true;
            }

            _stop.Cancel();
        }
    }
}
