using System.Text.Json.Serialization;

namespace ToughStart.Core;

/// <summary>What one zone is made ready for where that is not what the vehicle is: the goal of a job, or nothing at all.</summary>
[JsonConverter(typeof(TermConverter<ZoneGoal>))]
public sealed class ZoneGoal : Term<ZoneGoal>
{
    public static readonly ZoneGoal Wash = new("wash", Goal.Wash);
    public static readonly ZoneGoal Sale = new("sale", Goal.Sale);
    public static readonly ZoneGoal Protect = new("protect", Goal.Protect);
    public static readonly ZoneGoal Correct = new("correct", Goal.Correct);

    /// <summary>Nobody touches it.</summary>
    public static readonly ZoneGoal LeaveAlone = new("leave-alone", null);

    private ZoneGoal(string word, Goal? goal)
        : base(word)
    {
        Goal = goal;
    }

    /// <summary>The goal of a job that it amounts to; null = none, it is left alone.</summary>
    public Goal? Goal { get; }
}
