using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ToughStart.Data.Migrations
{
    /// <inheritdoc />
    public partial class HouseForNewJobs : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<bool>(
                name: "for_new_jobs",
                table: "house_presets",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.CreateIndex(
                name: "ix_house_presets_shop_id",
                table: "house_presets",
                column: "shop_id",
                unique: true,
                filter: "for_new_jobs");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "ix_house_presets_shop_id",
                table: "house_presets");

            migrationBuilder.DropColumn(
                name: "for_new_jobs",
                table: "house_presets");
        }
    }
}
