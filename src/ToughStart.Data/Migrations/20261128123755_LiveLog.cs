using Microsoft.EntityFrameworkCore.Migrations;
using Npgsql.EntityFrameworkCore.PostgreSQL.Metadata;

#nullable disable

namespace ToughStart.Data.Migrations
{
    /// <inheritdoc />
    public partial class LiveLog : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "ix_events_job_id_sequence",
                table: "events");

            migrationBuilder.AddColumn<int>(
                name: "number",
                table: "events",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<string>(
                name: "kind",
                table: "events",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "device",
                table: "events",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<int>(
                name: "seq",
                table: "events",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<string>(
                name: "epoch",
                table: "events",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<long>(
                name: "mono",
                table: "events",
                type: "bigint",
                nullable: false,
                defaultValue: 0L);

            migrationBuilder.AddColumn<int>(
                name: "after",
                table: "events",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<long>(
                name: "when_at",
                table: "events",
                type: "bigint",
                nullable: false,
                defaultValue: 0L);

            migrationBuilder.AddColumn<long>(
                name: "when_lo",
                table: "events",
                type: "bigint",
                nullable: false,
                defaultValue: 0L);

            migrationBuilder.AddColumn<long>(
                name: "when_hi",
                table: "events",
                type: "bigint",
                nullable: false,
                defaultValue: 0L);

            migrationBuilder.AddColumn<bool>(
                name: "by_owner",
                table: "events",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            // Observations become entries of the log: paper cards, and takings back. What was entered together knew nothing of each other.
            migrationBuilder.Sql("""
                ALTER TABLE events DISABLE TRIGGER USER;
                UPDATE events e SET number = n.number, at = date_trunc('milliseconds', e.at)
                    FROM (SELECT id, row_number() OVER (PARTITION BY job_id ORDER BY sequence) AS number FROM events) n WHERE n.id = e.id;
                UPDATE events e SET
                    kind = CASE WHEN e.body->>'takesBack' IS NULL THEN 'observed' ELSE 'undone' END,
                    after = (SELECT min(o.number) - 1 FROM events o
                        WHERE o.job_id = e.job_id AND (o.id = e.id OR o.body->>'batch' = e.body->>'batch')),
                    when_at = (extract(epoch FROM e.at) * 1000)::bigint,
                    when_lo = (extract(epoch FROM e.at) * 1000)::bigint,
                    when_hi = (extract(epoch FROM e.at) * 1000)::bigint;
                UPDATE events e SET body = CASE WHEN e.kind = 'undone' THEN jsonb_build_object('of', jsonb_build_array(e.body->>'takesBack'))
                    ELSE jsonb_strip_nulls(jsonb_build_object(
                        'step', e.body->'stepKey', 'zones', e.body->'zones', 'rounds', NULLIF(e.body->'rounds', '0'::jsonb),
                        'observe', e.body->'observe', 'result', e.body->'result', 'because', e.body->'because',
                        'elsewhere', NULLIF(e.body->'elsewhere', 'false'::jsonb), 'strength', e.body->'strength',
                        'dwellMinutes', COALESCE(e.body->'dwellMinutes'->'value', e.body->'dwellMinutes'), 'filmC', e.body->'filmC')) END;
                ALTER TABLE events ENABLE TRIGGER USER;
                UPDATE plans p SET events = (SELECT count(*) FROM events e WHERE e.job_id = p.job_id AND e.sequence <= p.events);
                """);

            migrationBuilder.DropColumn(
                name: "survey_revision",
                table: "events");

            migrationBuilder.DropColumn(
                name: "sequence",
                table: "events");

            migrationBuilder.AlterColumn<int>(
                name: "events",
                table: "plans",
                type: "integer",
                nullable: false,
                oldClrType: typeof(long),
                oldType: "bigint");

            migrationBuilder.CreateIndex(
                name: "ix_events_job_id_device_seq",
                table: "events",
                columns: new[] { "job_id", "device", "seq" },
                unique: true,
                filter: "seq > 0");

            migrationBuilder.CreateIndex(
                name: "ix_events_job_id_number",
                table: "events",
                columns: new[] { "job_id", "number" },
                unique: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            // Entries an older engine cannot read stay, and are told to nobody there.
            migrationBuilder.DropIndex(
                name: "ix_events_job_id_device_seq",
                table: "events");

            migrationBuilder.DropIndex(
                name: "ix_events_job_id_number",
                table: "events");

            migrationBuilder.DropColumn(
                name: "by_owner",
                table: "events");

            migrationBuilder.DropColumn(
                name: "when_hi",
                table: "events");

            migrationBuilder.DropColumn(
                name: "when_lo",
                table: "events");

            migrationBuilder.DropColumn(
                name: "when_at",
                table: "events");

            migrationBuilder.DropColumn(
                name: "after",
                table: "events");

            migrationBuilder.DropColumn(
                name: "mono",
                table: "events");

            migrationBuilder.DropColumn(
                name: "epoch",
                table: "events");

            migrationBuilder.DropColumn(
                name: "seq",
                table: "events");

            migrationBuilder.DropColumn(
                name: "device",
                table: "events");

            migrationBuilder.DropColumn(
                name: "kind",
                table: "events");

            migrationBuilder.DropColumn(
                name: "number",
                table: "events");

            migrationBuilder.AddColumn<int>(
                name: "survey_revision",
                table: "events",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<long>(
                name: "sequence",
                table: "events",
                type: "bigint",
                nullable: false)
                .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityAlwaysColumn);

            migrationBuilder.AlterColumn<long>(
                name: "events",
                table: "plans",
                type: "bigint",
                nullable: false,
                oldClrType: typeof(int),
                oldType: "integer");

            migrationBuilder.CreateIndex(
                name: "ix_events_job_id_sequence",
                table: "events",
                columns: new[] { "job_id", "sequence" });
        }
    }
}
