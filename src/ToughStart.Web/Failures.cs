using System.Data.Common;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.AspNetCore.Diagnostics;
using Microsoft.EntityFrameworkCore;
using ToughStart.Data;
using ToughStart.Web.Stations;

namespace ToughStart.Web;

/// <summary>What went wrong, as people and programs are told: never more than they need, never a bare 500 where the cause is known.</summary>
/// <param name="ComeBack">Seconds after which it is worth trying again; null = trying again helps nobody.</param>
public sealed record Failure(int Status, string Heading, string Advice, int? ComeBack = null)
{
    /// <summary>The failure behind an exception that no page has dealt with.</summary>
    public static Failure Of(Exception e) =>
        e switch
        {
            BadHttpRequestException bad => OfStatus(bad.StatusCode),
            AntiforgeryValidationException => OfStatus(400),
            BusyException => new(
                503,
                "Too much is being worked out",
                "Other people's plans come first for a moment. Nothing was lost; this page comes back by itself.",
                (int)BusyException.After.TotalSeconds
            ),
            ToughStart.Data.ClosedJobException closed => new(
                409,
                $"Job {closed.Number} is closed",
                "What was done is booked, so nothing more is written to it. What you typed is still in your browser: an owner can open the job "
                    + "again on its Close page, with a reason; then send it again."
            ),
            UnreadableSurveyException => new(
                422,
                "What is on record of this job cannot be read",
                "The fault is ours and stays with this one job: its photos, its log and every other job are as they were. "
                    + "Nothing of it is lost; tell us its number."
            ),
            CannotPlanException { InnerException: ToughStart.Core.Planning.TooManyPassesException many } => new(
                422,
                "Too much to choose from",
                many.Message.Capital() + "."
            ),
            CannotPlanException => new(
                422,
                "This job cannot be planned",
                "The fault is ours and stays with this one job; everything recorded is safe. Open its survey or intake and take back the last "
                    + "change, or send us the survey file: it is under Survey, Take away."
            ),
            OperationCanceledException => new(503, "That took too long", "It was stopped so that others can work. Try it again.", 5),
            _ when IsDatabaseAway(e) => new(
                503,
                "The database does not answer",
                "Nothing was saved, and nothing that was saved is lost. What you typed is still in your browser: go back to it. "
                    + "This page tries again by itself.",
                5
            ),
            _ => OfStatus(500),
        };

    /// <summary>The words for a status.</summary>
    public static Failure OfStatus(int status) =>
        status switch
        {
            404 => new(404, "No such page", "The job or page is not here. It may have another number."),
            401 or 403 => new(
                status,
                "That needs another person",
                "Your account may look but not change. Ask an owner or a technician of the shop."
            ),
            400 => new(
                400,
                "That could not be read",
                "Go back and send it again; if it asks for a token, reload the page first. What you typed is still in your browser."
            ),
            405 => new(405, "Not done that way", "This page can be looked at, but not changed like that."),
            409 => new(409, "Somebody was faster", "Reload to see what changed; nothing was overwritten."),
            413 => new(413, "Too large", "Nothing larger than 2 MB is taken."),
            415 => new(415, "That could not be read", "It came as a kind of document that is not taken here."),
            429 => new(429, "Too fast", "So many requests came from here that they have to wait. This page comes back by itself.", 5),
            503 => new(503, "Not just now", "The shop's machine is busy or starting. This page comes back by itself.", 5),
            >= 400 and < 500 => new(status, "That was not taken", "Go back and try it another way; nothing was saved."),
            _ => new(
                500,
                "That went wrong on our side",
                "Nothing was saved. Try again; if it happens twice, note the time and what you did."
            ),
        };

    /// <summary>The failure that a request ended in, if it did.</summary>
    public static Failure? Behind(HttpContext http) => http.Features.Get<IExceptionHandlerPathFeature>()?.Error is { } e ? Of(e) : null;

    /// <summary>Did it end because the database does not answer, however deep that lies?</summary>
    public static bool IsDatabaseAway(Exception? e) =>
        e switch
        {
            null => false,
            DbException { IsTransient: true } => true,
            DbException { InnerException: System.Net.Sockets.SocketException or IOException or TimeoutException } => true,
            AggregateException many => many.InnerExceptions.Any(IsDatabaseAway),
            _ => IsDatabaseAway(e.InnerException),
        };
}
