using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ToughStart.Data.Migrations
{
    /// <inheritdoc />
    public partial class Quotes : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<int>(
                name: "break",
                table: "staff",
                type: "integer",
                nullable: false,
                defaultValue: 30);

            migrationBuilder.AddColumn<int>(
                name: "break_from",
                table: "staff",
                type: "integer",
                nullable: false,
                defaultValue: 690);

            migrationBuilder.AddColumn<int>(
                name: "break_to",
                table: "staff",
                type: "integer",
                nullable: false,
                defaultValue: 810);

            migrationBuilder.AddColumn<string[]>(
                name: "skills",
                table: "staff",
                type: "text[]",
                nullable: false,
                defaultValue: new string[0]);

            migrationBuilder.AddColumn<int>(
                name: "works_from",
                table: "staff",
                type: "integer",
                nullable: false,
                defaultValue: 480);

            migrationBuilder.AddColumn<int>(
                name: "works_to",
                table: "staff",
                type: "integer",
                nullable: false,
                defaultValue: 1020);

            migrationBuilder.AddColumn<int>(
                name: "bays",
                table: "shops",
                type: "integer",
                nullable: false,
                defaultValue: 1);

            migrationBuilder.AddColumn<int>(
                name: "ladders",
                table: "shops",
                type: "integer",
                nullable: false,
                defaultValue: 1);

            migrationBuilder.AddColumn<int>(
                name: "quote_days",
                table: "shops",
                type: "integer",
                nullable: false,
                defaultValue: 30);

            migrationBuilder.AddColumn<string>(
                name: "quote_terms",
                table: "shops",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "rates",
                table: "shops",
                type: "jsonb",
                nullable: false,
                defaultValue: "{}");

            migrationBuilder.AddColumn<int>(
                name: "washers",
                table: "shops",
                type: "integer",
                nullable: false,
                defaultValue: 1);

            migrationBuilder.AddColumn<Guid>(
                name: "quote_id",
                table: "share_links",
                type: "uuid",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "job_crews",
                columns: table => new
                {
                    job_id = table.Column<Guid>(type: "uuid", nullable: false),
                    revision = table.Column<int>(type: "integer", nullable: false),
                    body = table.Column<string>(type: "text", nullable: false),
                    author = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_job_crews", x => x.job_id);
                    table.ForeignKey(
                        name: "fk_job_crews_jobs_job_id",
                        column: x => x.job_id,
                        principalTable: "jobs",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "job_quotes",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    job_id = table.Column<Guid>(type: "uuid", nullable: false),
                    version = table.Column<int>(type: "integer", nullable: false),
                    survey = table.Column<string>(type: "jsonb", nullable: false),
                    body = table.Column<string>(type: "text", nullable: false),
                    price = table.Column<decimal>(type: "numeric", nullable: false),
                    at_most = table.Column<decimal>(type: "numeric", nullable: false),
                    until = table.Column<DateOnly>(type: "date", nullable: false),
                    terms = table.Column<string>(type: "text", nullable: false),
                    said = table.Column<string>(type: "text", nullable: false),
                    photos = table.Column<Guid[]>(type: "uuid[]", nullable: false),
                    author = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    withdrawn = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    taken_by = table.Column<string>(type: "text", nullable: true),
                    taken_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    taken = table.Column<string>(type: "text", nullable: true),
                    taken_price = table.Column<decimal>(type: "numeric", nullable: true),
                    taken_at_most = table.Column<decimal>(type: "numeric", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_job_quotes", x => x.id);
                    table.ForeignKey(
                        name: "fk_job_quotes_jobs_job_id",
                        column: x => x.job_id,
                        principalTable: "jobs",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "ix_job_quotes_job_id_version",
                table: "job_quotes",
                columns: new[] { "job_id", "version" },
                unique: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "job_crews");

            migrationBuilder.DropTable(
                name: "job_quotes");

            migrationBuilder.DropColumn(
                name: "break",
                table: "staff");

            migrationBuilder.DropColumn(
                name: "break_from",
                table: "staff");

            migrationBuilder.DropColumn(
                name: "break_to",
                table: "staff");

            migrationBuilder.DropColumn(
                name: "skills",
                table: "staff");

            migrationBuilder.DropColumn(
                name: "works_from",
                table: "staff");

            migrationBuilder.DropColumn(
                name: "works_to",
                table: "staff");

            migrationBuilder.DropColumn(
                name: "bays",
                table: "shops");

            migrationBuilder.DropColumn(
                name: "ladders",
                table: "shops");

            migrationBuilder.DropColumn(
                name: "quote_days",
                table: "shops");

            migrationBuilder.DropColumn(
                name: "quote_terms",
                table: "shops");

            migrationBuilder.DropColumn(
                name: "rates",
                table: "shops");

            migrationBuilder.DropColumn(
                name: "washers",
                table: "shops");

            migrationBuilder.DropColumn(
                name: "quote_id",
                table: "share_links");
        }
    }
}
