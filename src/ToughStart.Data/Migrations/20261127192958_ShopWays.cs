using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ToughStart.Data.Migrations
{
    /// <inheritdoc />
    public partial class ShopWays : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "currency",
                table: "shops",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "day_pattern",
                table: "shops",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<bool>(
                name: "decimal_comma",
                table: "shops",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<bool>(
                name: "fahrenheit",
                table: "shops",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<bool>(
                name: "inches",
                table: "shops",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<string>(
                name: "tax",
                table: "shops",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "volume",
                table: "shops",
                type: "text",
                nullable: false,
                defaultValue: "");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "currency",
                table: "shops");

            migrationBuilder.DropColumn(
                name: "day_pattern",
                table: "shops");

            migrationBuilder.DropColumn(
                name: "decimal_comma",
                table: "shops");

            migrationBuilder.DropColumn(
                name: "fahrenheit",
                table: "shops");

            migrationBuilder.DropColumn(
                name: "inches",
                table: "shops");

            migrationBuilder.DropColumn(
                name: "tax",
                table: "shops");

            migrationBuilder.DropColumn(
                name: "volume",
                table: "shops");
        }
    }
}
