using System.Text;
using System.Text.Json.Nodes;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;

namespace ToughStart.Core.Tests;

/// <summary>What an older engine saved: never refused because an id has left the catalogue, and what is left out is named.</summary>
public class StoredSurveyTests
{
    private static JsonObject Saved() => JsonNode.Parse(SurveyFormat.Write(Repository.Demo("estuary-pickup")))!.AsObject();

    private static (Checked<Survey> Survey, IReadOnlyList<string> LeftOut) Read(JsonNode json) =>
        StoredSurvey.Read(Encoding.UTF8.GetBytes(json.ToJsonString()));

    [Fact]
    public void What_reads_is_left_as_it_is()
    {
        var (survey, leftOut) = Read(Saved());
        leftOut.ShouldBeEmpty();
        SurveyFormat.Write(survey.Value!).ShouldBe(SurveyFormat.Write(Repository.Demo("estuary-pickup")));
    }

    [Fact]
    public void Ids_that_left_the_catalogue_are_left_out_and_all_else_stands()
    {
        var json = Saved();
        var zone = json["zones"]!.AsArray().First(z => z!["findings"]!.AsArray().Count >= 2)!.AsObject();
        var id = zone["zone"]!.GetValue<string>();
        var kept = zone["findings"]![1]!["contaminant"]!.GetValue<string>();
        zone["findings"]![0]!["contaminant"] = "moon-dust";
        zone["surface"] = "unobtainium";
        zone["tests"] = new JsonArray(new JsonObject { ["test"] = "sniff", ["result"] = "none" });
        json["house"] = new JsonObject
        {
            ["moonPhase"] = "full",
            ["foam"] = "always",
            ["clay"] = "sometimes",
        };
        json["shelf"] = new JsonArray(
            new JsonObject { ["agent"] = "phlogiston", ["name"] = "Old Tin" },
            new JsonObject { ["agent"] = "apc", ["name"] = "Plover" }
        );
        json["declines"] = new JsonArray(new JsonObject { ["treatment"] = "leeches" }, new JsonObject { ["stage"] = "iron" });
        json["zones"]!.AsArray().Add(new JsonObject { ["zone"] = "rumble-seat", ["findings"] = new JsonArray() });
        json["site"]!.AsObject()["moonlight"] = 3;
        var (read, leftOut) = Read(json);
        read.Problems.ShouldBeEmpty();
        var survey = read.Value!;
        survey.ZoneOf(id)!.Findings.ShouldContain(f => f.Contaminant == kept);
        survey.ZoneOf(id)!.Surface.ShouldBeNull();
        survey.Rule("foam").ShouldBe("always");
        survey.House.ShouldNotContainKey("clay");
        survey.Shelf!.ShouldHaveSingleItem().Agent.ShouldBe("apc");
        survey.Declines.ShouldHaveSingleItem().Stage.ShouldBe(Stage.Iron);
        survey.ZoneOf("rumble-seat").ShouldBeNull();
        survey.Zones.Count.ShouldBe(Repository.Demo("estuary-pickup").Zones.Count);
        leftOut.Count.ShouldBe(9);
        leftOut.ShouldContain(l => l.Contains("moon-dust", StringComparison.Ordinal));
        Repository.Plan(survey).Steps.ShouldNotBeEmpty();
    }

    [Fact]
    public void Without_a_vehicle_there_is_no_survey()
    {
        var json = Saved();
        json["vehicle"]!["form"] = "zeppelin";
        Read(json).Survey.Ok.ShouldBeFalse();
        StoredSurvey.Read("{"u8.ToArray()).Survey.Refusal.ShouldBe(Refusal.Malformed);
    }
}
