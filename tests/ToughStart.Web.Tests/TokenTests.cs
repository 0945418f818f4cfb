using System.Net;
using System.Reflection;
using System.Text.RegularExpressions;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Routing;
using Microsoft.Extensions.DependencyInjection;

namespace ToughStart.Web.Tests;

/// <summary>Nothing of the shop changes without the token of a page: every form of every page, found in the application itself.</summary>
[Collection("app")]
public sealed partial class TokenTests(AppFixture app)
{
    [Fact]
    public async Task No_page_takes_a_form_without_its_token()
    {
        using var owner = await app.SignedInAsync("odile");
        var pages = app
            .Services.GetRequiredService<EndpointDataSource>()
            .Endpoints.OfType<RouteEndpoint>()
            .Select(e =>
                (
                    Path: e.RoutePattern.RawText!,
                    Page: e.Metadata.GetMetadata<CompiledPageActionDescriptor>()?.ModelTypeInfo
                        ?? Model(e.Metadata.GetMetadata<PageActionDescriptor>())
                )
            )
            .Where(p => p.Page is not null && p.Page != typeof(ToughStart.Web.Stations.ErrorModel))
            .ToArray();
        var tried = 0;
        foreach (var (path, page) in pages)
        {
            foreach (
                var handler in page!
                    .GetMethods()
                    .Where(m => m.Name.StartsWith("OnPost", StringComparison.Ordinal))
                    .Select(m => Handler().Match(m.Name).Groups[1].Value)
            )
            {
                var url =
                    "/"
                    + Argument()
                        .Replace(path, m => m.Value.Contains("guid", StringComparison.Ordinal) ? Guid.Empty.ToString() : "104")
                        .TrimStart('/');
                using var form = new FormUrlEncodedContent(new Dictionary<string, string> { ["name"] = "x" });
                var answer = await owner.PostAsync(
                    handler.Length == 0 ? url : $"{url}?handler={handler}",
                    form,
                    TestContext.Current.CancellationToken
                );
                answer.StatusCode.ShouldBe(HttpStatusCode.BadRequest, $"{url} {handler}");
                tried++;
            }
        }

        tried.ShouldBeGreaterThan(35, "every form of every page");
    }

    private static TypeInfo? Model(PageActionDescriptor? page) =>
        page is null
            ? null
            : typeof(Program).Assembly.DefinedTypes.FirstOrDefault(t =>
                t.IsSubclassOf(typeof(PageModel)) && Files().Replace(page.RelativePath, "") is var name && ModelOf(name).Contains(t.Name)
            );

    /// <summary>"/Pages/Shelf/Import.cshtml" has the model ImportModel, "/Pages/Plan/Index.cshtml" PlanModel; a few have longer names.</summary>
    private static string[] ModelOf(string path) =>
        path.Split('/', StringSplitOptions.RemoveEmptyEntries) is [.., var folder, var file]
            ? file == "Index"
                ? [folder + "Model"]
                : [file + "Model", folder + file + "Model"]
            : [];

    [GeneratedRegex("^OnPost(.*?)(Async)?$")]
    private static partial Regex Handler();

    [GeneratedRegex(@"\{[^}]*\}")]
    private static partial Regex Argument();

    [GeneratedRegex("^/Pages|\\.cshtml$")]
    private static partial Regex Files();
}
