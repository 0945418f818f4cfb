using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;

namespace ToughStart.Web;

/// <summary>Requests that no page and no program of ours sends: refused at the door, before anything looks at them.</summary>
public static class Sound
{
    /// <summary>A NUL in the address, or letters that are none, stand for nothing a shop could mean; no database takes them either.</summary>
    public static void UseSoundAddresses(this IApplicationBuilder app) =>
        app.Use(
            async (http, next) =>
            {
                if (!Is(http.Request.Path.Value) || http.Request.Query.Any(q => !Is(q.Key) || q.Value.Any(v => !Is(v))))
                {
                    http.Response.StatusCode = StatusCodes.Status400BadRequest;
                    return;
                }

                await next(http);
            }
        );

    /// <summary>Largest form with what hangs on it, bytes: one picture and its fields.</summary>
    public const int MostFormBytes = Photos.PhotoIntake.MostBytes + 65536;

    /// <summary>A form that breaks off, or holds what no database takes, reaches no page.</summary>
    public static void UseSoundForms(this IApplicationBuilder app) =>
        app.Use(
            async (http, next) =>
            {
                if (http.Request.HasFormContentType && !http.Request.Path.StartsWithSegments("/api"))
                {
                    if (http.Request.ContentLength > MostFormBytes)
                    {
                        http.Response.StatusCode = StatusCodes.Status413PayloadTooLarge;
                        return;
                    }

                    try
                    {
                        var form = await http.Request.ReadFormAsync(http.RequestAborted);
                        if (form.Any(f => !Is(f.Key) || f.Value.Any(v => !Is(v))))
                        {
                            http.Response.StatusCode = StatusCodes.Status400BadRequest;
                            return;
                        }
                    }
                    catch (Exception e) when (e is InvalidDataException or (IOException and not BadHttpRequestException))
                    {
                        http.Response.StatusCode = StatusCodes.Status400BadRequest;
                        return;
                    }
                }

                await next(http);
            }
        );

    /// <summary>Text that can be kept: no NUL, no half of a letter.</summary>
    public static bool Is(string? text)
    {
        for (var i = 0; i < (text?.Length ?? 0); i++)
        {
            var c = text![i];
            if (
                c == '\0'
                || char.IsLowSurrogate(c)
                || (char.IsHighSurrogate(c) && !(i + 1 < text.Length && char.IsLowSurrogate(text[i + 1])))
            )
            {
                return false;
            }

            i += char.IsHighSurrogate(c) ? 1 : 0;
        }

        return true;
    }
}

/// <summary>Pages do what they have a handler for, with forms that can be read; anything else is told so and reaches no page.</summary>
public sealed class SoundPages : IAsyncPageFilter
{
    public Task OnPageHandlerSelectionAsync(PageHandlerSelectedContext context) => Task.CompletedTask;

    public async Task OnPageHandlerExecutionAsync(PageHandlerExecutingContext context, PageHandlerExecutionDelegate next)
    {
        var request = context.HttpContext.Request;
        var looks = HttpMethods.IsGet(request.Method) || HttpMethods.IsHead(request.Method);
        if (context.HandlerMethod is null && (!looks || context.ActionDescriptor.HandlerMethods.Count > 0))
        {
            context.Result = new StatusCodeResult(looks ? StatusCodes.Status404NotFound : StatusCodes.Status405MethodNotAllowed);
            return;
        }

        if (!looks && !request.HasFormContentType)
        {
            context.Result = new StatusCodeResult(StatusCodes.Status415UnsupportedMediaType);
            return;
        }

        await next();
    }
}
