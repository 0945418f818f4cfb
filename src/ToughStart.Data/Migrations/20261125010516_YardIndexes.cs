using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ToughStart.Data.Migrations
{
    /// <inheritdoc />
    public partial class YardIndexes : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateIndex(
                name: "ix_jobs_day",
                table: "jobs",
                column: "day");

            migrationBuilder.CreateIndex(
                name: "ix_jobs_number",
                table: "jobs",
                column: "number");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "ix_jobs_day",
                table: "jobs");

            migrationBuilder.DropIndex(
                name: "ix_jobs_number",
                table: "jobs");
        }
    }
}
