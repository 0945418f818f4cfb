using System.Diagnostics;
using System.Net.Http.Json;
using System.Text.Json;
using Microsoft.AspNetCore.SignalR.Client;
using ToughStart.Core.Running.Live;
using ToughStart.Web.Bay;

namespace ToughStart.Web.Tests;

/// <summary>Two instances behind a web server that deals requests out in turn: phones need not know which of them they speak with.</summary>
[Collection("bay")]
public sealed class LiveInstancesTests(AppFixture app)
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Fact]
    public async Task Phones_at_two_instances_see_each_other()
    {
        var connection = AppProcess.NewDatabase(app.Connection);
        var (first, second, front) = (AppProcess.FreePort(), AppProcess.FreePort(), AppProcess.FreePort());
        var folder = Directory.CreateTempSubdirectory("tough-start-nginx").FullName;
        var processes = new List<Process> { await AppProcess.StartAsync(connection, first) };
        try
        {
            processes.Add(await AppProcess.StartAsync(connection, second));
            await File.WriteAllTextAsync(Path.Combine(folder, "nginx.conf"), Configuration(folder, front, first, second), Stop);
            var nginx = new ProcessStartInfo("nginx", ["-c", Path.Combine(folder, "nginx.conf"), "-p", folder, "-g", "daemon off;"]);
            processes.Add(Process.Start(nginx)!);
            var address = new Uri($"http://127.0.0.1:{front}");
            await UpAsync(address);

            using var tam = await new LivePhone(address, "tam", 111).OpenAsync();
            using var odile = await new LivePhone(address, "odile", 111).OpenAsync();
            await tam.BeginAsync();
            await using var hub = odile.Hub();
            var heard = System.Threading.Channels.Channel.CreateUnbounded<int>();
            hub.On<int, int>(BayHub.Head, (_, number) => heard.Writer.TryWrite(number));
            await hub.StartAsync(Stop);
            (await hub.InvokeAsync<bool>("Join", 111, Stop)).ShouldBeTrue();

            // In turn by one instance and by the other; the listener hears of each, whichever it hangs on.
            for (var i = 0; i < 6; i++)
            {
                var said = await tam.SyncAsync(tam.Make(LogKind.Paused, new LogBody { Reason = $"{i}" }));
                var number = said.GetProperty("acks")[0][1].GetInt32();
                using var soon = CancellationTokenSource.CreateLinkedTokenSource(Stop);
                soon.CancelAfter(TimeSpan.FromSeconds(10));
                while (await heard.Reader.ReadAsync(soon.Token) < number) { }
            }

            (await odile.SyncAsync()).GetProperty("events").EnumerateArray().Count().ShouldBe(7);

            // One of them is killed in the middle of an exchange: what was handed in goes on to the other, and stands there once.
            var made = Enumerable.Range(0, 12).Select(i => tam.Make(LogKind.Paused, new LogBody { Reason = $"killed {i}" })).ToArray();
            var waiting = made.ToList();
            for (var i = 0; waiting.Count > 0; i++)
            {
                i.ShouldBeLessThan(60, "it comes to its end");
                var exchange = tam.HastyAsync([.. waiting.Take(4)], Stop);
                if (i == 1)
                {
                    processes[0].Kill();
                }

                try
                {
                    var answer = await exchange;
                    if (answer.IsSuccessStatusCode)
                    {
                        var said = await answer.Content.ReadFromJsonAsync<JsonElement>(Stop);
                        waiting.RemoveAll(w => said.GetProperty("acks").EnumerateArray().Any(a => a[0].GetString() == w.Id));
                    }
                }
                catch (HttpRequestException)
                {
                    // The queue keeps it.
                }
            }

            (await odile.SyncAsync())
                .GetProperty("events")
                .EnumerateArray()
                .Select(e => e.GetProperty("id").GetString())
                .ShouldBe(made.Select(e => e.Id), "all of it, once, in its order");
        }
        finally
        {
            foreach (var p in processes)
            {
                p.Kill(entireProcessTree: true);
            }

            await AppProcess.DropAsync(app.Connection, connection);
            Directory.Delete(folder, true);
        }
    }

    private static async Task UpAsync(Uri address)
    {
        using var http = new HttpClient();
        for (var i = 0; ; i++)
        {
            try
            {
                if ((await http.GetAsync(new Uri(address, "/readyz"), Stop)).IsSuccessStatusCode)
                {
                    return;
                }
            }
            catch (HttpRequestException) when (i < 40)
            {
                await Task.Delay(100, Stop);
            }
        }
    }

    private static string Configuration(string folder, int front, int first, int second) =>
        $$"""
            worker_processes 1;
            error_log {{folder}}/error.log;
            pid {{folder}}/nginx.pid;
            events { worker_connections 256; }
            http {
              access_log off;
              client_body_temp_path {{folder}}/body;
              proxy_temp_path {{folder}}/proxy;
              fastcgi_temp_path {{folder}}/fastcgi;
              uwsgi_temp_path {{folder}}/uwsgi;
              scgi_temp_path {{folder}}/scgi;
              upstream shop { server 127.0.0.1:{{first}}; server 127.0.0.1:{{second}}; }
              server {
                listen 127.0.0.1:{{front}};
                location / {
                  proxy_pass http://shop;
                  proxy_http_version 1.1;
                  proxy_set_header Host $host:{{front}};
                  proxy_set_header Upgrade $http_upgrade;
                  proxy_set_header Connection "upgrade";
                }
              }
            }
            """;
}
