using System.Runtime.ExceptionServices;

namespace ToughStart.Core.Planning;

/// <summary>Work that is independent of each other, on as many cores as there are. What comes of it is the same on one.</summary>
internal static class Cores
{
    /// <summary>Makes so many things, each by itself; in order.</summary>
    /// <param name="make">Touches nothing that another of them touches.</param>
    /// <exception cref="OperationCanceledException">Whoever asked has left.</exception>
    public static T[] Each<T>(int count, Func<int, T> make)
    {
        var made = new T[count];
        if (count < 2 || Environment.ProcessorCount < 2)
        {
            for (var i = 0; i < count; i++)
            {
                made[i] = make(i);
            }

            return made;
        }

        try
        {
            Parallel.For(0, count, i => made[i] = make(i));
        }
        catch (AggregateException e)
        {
            ExceptionDispatchInfo.Throw(e.InnerExceptions[0]);
        }

        return made;
    }
}
