using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ToughStart.Data.Migrations
{
    /// <inheritdoc />
    public partial class Books : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "hand_work",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    job_id = table.Column<Guid>(type: "uuid", nullable: false),
                    act = table.Column<string>(type: "text", nullable: false),
                    kind = table.Column<string>(type: "text", nullable: true),
                    zones = table.Column<string[]>(type: "text[]", nullable: false),
                    layers = table.Column<int>(type: "integer", nullable: false),
                    author = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    struck = table.Column<bool>(type: "boolean", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_hand_work", x => x.id);
                    table.ForeignKey(
                        name: "fk_hand_work_jobs_job_id",
                        column: x => x.job_id,
                        principalTable: "jobs",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "job_books",
                columns: table => new
                {
                    job_id = table.Column<Guid>(type: "uuid", nullable: false),
                    vehicle_id = table.Column<Guid>(type: "uuid", nullable: false),
                    day = table.Column<DateOnly>(type: "date", nullable: false),
                    goal = table.Column<string>(type: "text", nullable: false),
                    planned_minutes = table.Column<int>(type: "integer", nullable: false),
                    minutes = table.Column<int>(type: "integer", nullable: true),
                    planned_litres = table.Column<int>(type: "integer", nullable: false),
                    litres = table.Column<int>(type: "integer", nullable: false),
                    product_ml = table.Column<int>(type: "integer", nullable: false),
                    cost = table.Column<decimal>(type: "numeric(12,2)", precision: 12, scale: 2, nullable: false),
                    ready = table.Column<int>(type: "integer", nullable: false),
                    repeat = table.Column<int>(type: "integer", nullable: false),
                    refer = table.Column<int>(type: "integer", nullable: false),
                    unverified = table.Column<int>(type: "integer", nullable: false),
                    dried = table.Column<int>(type: "integer", nullable: false),
                    due = table.Column<DateOnly>(type: "date", nullable: true),
                    braked_by = table.Column<string>(type: "text", nullable: true),
                    words = table.Column<string>(type: "text", nullable: false),
                    body = table.Column<string>(type: "text", nullable: false),
                    author = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_job_books", x => x.job_id);
                    table.ForeignKey(
                        name: "fk_job_books_jobs_job_id",
                        column: x => x.job_id,
                        principalTable: "jobs",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "learnt_factors",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    of = table.Column<string>(type: "text", nullable: false),
                    subject = table.Column<string>(type: "text", nullable: false),
                    before = table.Column<double>(type: "double precision", nullable: false),
                    factor = table.Column<double>(type: "double precision", nullable: false),
                    low = table.Column<double>(type: "double precision", nullable: false),
                    high = table.Column<double>(type: "double precision", nullable: false),
                    jobs = table.Column<int>(type: "integer", nullable: false),
                    zones = table.Column<int>(type: "integer", nullable: false),
                    author = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    undone_by = table.Column<string>(type: "text", nullable: true),
                    undone_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_learnt_factors", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "letters",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    job_id = table.Column<Guid>(type: "uuid", nullable: false),
                    to = table.Column<string>(type: "text", nullable: false),
                    subject = table.Column<string>(type: "text", nullable: false),
                    words = table.Column<string>(type: "text", nullable: false),
                    file_name = table.Column<string>(type: "text", nullable: true),
                    file = table.Column<string>(type: "text", nullable: true),
                    author = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_letters", x => x.id);
                    table.ForeignKey(
                        name: "fk_letters_jobs_job_id",
                        column: x => x.job_id,
                        principalTable: "jobs",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "loop_lessons",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    job_id = table.Column<Guid>(type: "uuid", nullable: false),
                    product_id = table.Column<Guid>(type: "uuid", nullable: true),
                    agent = table.Column<string>(type: "text", nullable: false),
                    batch = table.Column<string>(type: "text", nullable: true),
                    zone = table.Column<string>(type: "text", nullable: false),
                    kind = table.Column<string>(type: "text", nullable: false),
                    need = table.Column<double>(type: "double precision", nullable: false),
                    per_round = table.Column<double>(type: "double precision", nullable: false),
                    rounds = table.Column<int>(type: "integer", nullable: false),
                    stopped = table.Column<bool>(type: "boolean", nullable: false),
                    spread = table.Column<double>(type: "double precision", nullable: false),
                    excluded = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_loop_lessons", x => x.id);
                    table.ForeignKey(
                        name: "fk_loop_lessons_jobs_job_id",
                        column: x => x.job_id,
                        principalTable: "jobs",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "pace_lessons",
                columns: table => new
                {
                    job_id = table.Column<Guid>(type: "uuid", nullable: false),
                    who = table.Column<string>(type: "text", nullable: false),
                    stage = table.Column<string>(type: "text", nullable: false),
                    seconds = table.Column<int>(type: "integer", nullable: false),
                    norm = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_pace_lessons", x => new { x.job_id, x.who, x.stage });
                    table.ForeignKey(
                        name: "fk_pace_lessons_jobs_job_id",
                        column: x => x.job_id,
                        principalTable: "jobs",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "saved_views",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    query = table.Column<string>(type: "text", nullable: false),
                    author = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_saved_views", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "share_links",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    job_id = table.Column<Guid>(type: "uuid", nullable: false),
                    hash = table.Column<byte[]>(type: "bytea", nullable: false),
                    shows = table.Column<string>(type: "text", nullable: false),
                    until = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    revoked = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    views = table.Column<int>(type: "integer", nullable: false),
                    seen = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    author = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_share_links", x => x.id);
                    table.ForeignKey(
                        name: "fk_share_links_jobs_job_id",
                        column: x => x.job_id,
                        principalTable: "jobs",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "ix_hand_work_job_id",
                table: "hand_work",
                column: "job_id");

            migrationBuilder.CreateIndex(
                name: "ix_job_books_day_job_id",
                table: "job_books",
                columns: new[] { "day", "job_id" });

            migrationBuilder.CreateIndex(
                name: "ix_job_books_dried",
                table: "job_books",
                column: "day",
                filter: "dried > 0");

            migrationBuilder.CreateIndex(
                name: "ix_job_books_due",
                table: "job_books",
                column: "due");

            migrationBuilder.CreateIndex(
                name: "ix_job_books_goal_day",
                table: "job_books",
                columns: new[] { "goal", "day" });

            migrationBuilder.CreateIndex(
                name: "ix_job_books_unverified",
                table: "job_books",
                column: "day",
                filter: "unverified > 0");

            migrationBuilder.CreateIndex(
                name: "ix_job_books_vehicle_id_day",
                table: "job_books",
                columns: new[] { "vehicle_id", "day" });

            migrationBuilder.CreateIndex(
                name: "ix_job_books_words_parts",
                table: "job_books",
                column: "words")
                .Annotation("Npgsql:IndexMethod", "gin")
                .Annotation("Npgsql:IndexOperators", new[] { "gin_trgm_ops" });

            migrationBuilder.CreateIndex(
                name: "ix_learnt_factors_of_subject",
                table: "learnt_factors",
                columns: new[] { "of", "subject" });

            migrationBuilder.CreateIndex(
                name: "ix_letters_job_id_at",
                table: "letters",
                columns: new[] { "job_id", "at" });

            migrationBuilder.CreateIndex(
                name: "ix_loop_lessons_job_id",
                table: "loop_lessons",
                column: "job_id");

            migrationBuilder.CreateIndex(
                name: "ix_loop_lessons_product_id_job_id",
                table: "loop_lessons",
                columns: new[] { "product_id", "job_id" });

            migrationBuilder.CreateIndex(
                name: "ix_loop_lessons_unmoved",
                table: "loop_lessons",
                column: "job_id",
                filter: "NOT stopped AND excluded IS NULL");

            migrationBuilder.CreateIndex(
                name: "ix_pace_lessons_who_stage",
                table: "pace_lessons",
                columns: new[] { "who", "stage" });

            migrationBuilder.CreateIndex(
                name: "ix_saved_views_name",
                table: "saved_views",
                column: "name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_share_links_hash",
                table: "share_links",
                column: "hash",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_share_links_job_id",
                table: "share_links",
                column: "job_id");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "hand_work");

            migrationBuilder.DropTable(
                name: "job_books");

            migrationBuilder.DropTable(
                name: "learnt_factors");

            migrationBuilder.DropTable(
                name: "letters");

            migrationBuilder.DropTable(
                name: "loop_lessons");

            migrationBuilder.DropTable(
                name: "pace_lessons");

            migrationBuilder.DropTable(
                name: "saved_views");

            migrationBuilder.DropTable(
                name: "share_links");
        }
    }
}
