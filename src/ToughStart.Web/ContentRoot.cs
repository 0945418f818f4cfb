namespace ToughStart.Web;

/// <summary>Where pages' static files lie: beside the running assembly's project, or the working folder.</summary>
internal static class ContentRoot
{
    public static string Find()
    {
        for (var dir = new DirectoryInfo(AppContext.BaseDirectory); dir is not null; dir = dir.Parent)
        {
            var candidate = Path.Combine(dir.FullName, "src", "ToughStart.Web");
            if (Directory.Exists(Path.Combine(candidate, "wwwroot")))
            {
                return candidate;
            }

            if (dir.Name == "ToughStart.Web" && Directory.Exists(Path.Combine(dir.FullName, "wwwroot")))
            {
                return dir.FullName;
            }
        }

        return Directory.GetCurrentDirectory();
    }
}
