using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ToughStart.Data.Migrations
{
    /// <inheritdoc />
    public partial class Places : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<double>(
                name: "apply_m2min",
                table: "shops",
                type: "double precision",
                nullable: true);

            migrationBuilder.AddColumn<double>(
                name: "rinse_m2min",
                table: "shops",
                type: "double precision",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "house_presets",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    shop_id = table.Column<Guid>(type: "uuid", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    rules = table.Column<string>(type: "jsonb", nullable: false),
                    author = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_house_presets", x => x.id);
                    table.ForeignKey(
                        name: "fk_house_presets_shops_shop_id",
                        column: x => x.shop_id,
                        principalTable: "shops",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "sites",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    shop_id = table.Column<Guid>(type: "uuid", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    body = table.Column<string>(type: "jsonb", nullable: false),
                    author = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_sites", x => x.id);
                    table.ForeignKey(
                        name: "fk_sites_shops_shop_id",
                        column: x => x.shop_id,
                        principalTable: "shops",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "ix_house_presets_shop_id_name",
                table: "house_presets",
                columns: new[] { "shop_id", "name" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_sites_shop_id_name",
                table: "sites",
                columns: new[] { "shop_id", "name" },
                unique: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "house_presets");

            migrationBuilder.DropTable(
                name: "sites");

            migrationBuilder.DropColumn(
                name: "apply_m2min",
                table: "shops");

            migrationBuilder.DropColumn(
                name: "rinse_m2min",
                table: "shops");
        }
    }
}
