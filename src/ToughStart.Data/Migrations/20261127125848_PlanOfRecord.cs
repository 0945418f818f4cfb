using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ToughStart.Data.Migrations
{
    /// <inheritdoc />
    public partial class PlanOfRecord : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AlterColumn<long>(
                name: "events",
                table: "plans",
                type: "bigint",
                nullable: false,
                oldClrType: typeof(int),
                oldType: "integer");

            migrationBuilder.AddColumn<string>(
                name: "survey",
                table: "plans",
                type: "jsonb",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "plan_revision",
                table: "jobs",
                type: "integer",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "plan_revision",
                table: "events",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            // Runs of an older engine: each batch spoke of the plan that stood after the batch before it. The last plan of a job that was begun is in force.
            migrationBuilder.Sql("""
                ALTER TABLE events DISABLE TRIGGER USER;
                UPDATE events e SET plan_revision = COALESCE((
                    SELECT max(p.revision) FROM plans p WHERE p.job_id = e.job_id AND p.survey_revision = e.survey_revision AND p.events = (
                        SELECT count(*) FROM events o WHERE o.job_id = e.job_id AND o.survey_revision = e.survey_revision AND o.sequence < (
                            SELECT min(b.sequence) FROM events b WHERE b.job_id = e.job_id AND b.body->>'batch' = e.body->>'batch'))), 0);
                ALTER TABLE events ENABLE TRIGGER USER;
                UPDATE plans p SET events = COALESCE((
                    SELECT e.sequence FROM events e WHERE e.job_id = p.job_id AND e.survey_revision = p.survey_revision ORDER BY e.sequence OFFSET p.events - 1 LIMIT 1), 0) WHERE p.events > 0;
                UPDATE jobs j SET plan_revision = (SELECT max(p.revision) FROM plans p WHERE p.job_id = j.id) WHERE EXISTS (SELECT 1 FROM events e WHERE e.job_id = j.id);
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "survey",
                table: "plans");

            migrationBuilder.DropColumn(
                name: "plan_revision",
                table: "jobs");

            migrationBuilder.DropColumn(
                name: "plan_revision",
                table: "events");

            migrationBuilder.AlterColumn<int>(
                name: "events",
                table: "plans",
                type: "integer",
                nullable: false,
                oldClrType: typeof(long),
                oldType: "bigint");
        }
    }
}
