using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ToughStart.Data.Migrations
{
    /// <inheritdoc />
    public partial class FoundByParts : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "ix_mixes_bottle_id_number",
                table: "mixes");

            migrationBuilder.AlterDatabase()
                .Annotation("Npgsql:PostgresExtension:pg_trgm", ",,");

            migrationBuilder.CreateIndex(
                name: "ix_mixes_bottle_id_at",
                table: "mixes",
                columns: new[] { "bottle_id", "at" });

            migrationBuilder.CreateIndex(
                name: "ix_jobs_open_day",
                table: "jobs",
                column: "day",
                filter: "station <> 'closed'");

            migrationBuilder.CreateIndex(
                name: "ix_jobs_station_day",
                table: "jobs",
                columns: new[] { "station", "day" });

            migrationBuilder.CreateIndex(
                name: "ix_jobs_story_parts",
                table: "jobs",
                column: "story")
                .Annotation("Npgsql:IndexMethod", "gin")
                .Annotation("Npgsql:IndexOperators", new[] { "gin_trgm_ops" });

            migrationBuilder.CreateIndex(
                name: "ix_clients_name_parts",
                table: "clients",
                column: "name")
                .Annotation("Npgsql:IndexMethod", "gin")
                .Annotation("Npgsql:IndexOperators", new[] { "gin_trgm_ops" });

            migrationBuilder.CreateIndex(
                name: "ix_client_vehicles_name_parts",
                table: "client_vehicles",
                column: "name")
                .Annotation("Npgsql:IndexMethod", "gin")
                .Annotation("Npgsql:IndexOperators", new[] { "gin_trgm_ops" });

            migrationBuilder.CreateIndex(
                name: "ix_client_vehicles_plate_key_parts",
                table: "client_vehicles",
                column: "plate_key")
                .Annotation("Npgsql:IndexMethod", "gin")
                .Annotation("Npgsql:IndexOperators", new[] { "gin_trgm_ops" });
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "ix_mixes_bottle_id_at",
                table: "mixes");

            migrationBuilder.DropIndex(
                name: "ix_jobs_open_day",
                table: "jobs");

            migrationBuilder.DropIndex(
                name: "ix_jobs_station_day",
                table: "jobs");

            migrationBuilder.DropIndex(
                name: "ix_jobs_story_parts",
                table: "jobs");

            migrationBuilder.DropIndex(
                name: "ix_clients_name_parts",
                table: "clients");

            migrationBuilder.DropIndex(
                name: "ix_client_vehicles_name_parts",
                table: "client_vehicles");

            migrationBuilder.DropIndex(
                name: "ix_client_vehicles_plate_key_parts",
                table: "client_vehicles");

            migrationBuilder.AlterDatabase()
                .OldAnnotation("Npgsql:PostgresExtension:pg_trgm", ",,");

            migrationBuilder.CreateIndex(
                name: "ix_mixes_bottle_id_number",
                table: "mixes",
                columns: new[] { "bottle_id", "number" });
        }
    }
}
