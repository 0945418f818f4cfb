using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ToughStart.Data.Migrations
{
    /// <inheritdoc />
    public partial class FilmTrials : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "film_trials",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    shop_id = table.Column<Guid>(type: "uuid", nullable: false),
                    method = table.Column<string>(type: "text", nullable: false),
                    carrier = table.Column<string>(type: "text", nullable: false),
                    measured = table.Column<double>(type: "double precision", nullable: false),
                    factor = table.Column<double>(type: "double precision", nullable: false),
                    struck = table.Column<bool>(type: "boolean", nullable: false),
                    author = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_film_trials", x => x.id);
                    table.ForeignKey(
                        name: "fk_film_trials_shops_shop_id",
                        column: x => x.shop_id,
                        principalTable: "shops",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "ix_film_trials_at",
                table: "film_trials",
                column: "at");

            migrationBuilder.CreateIndex(
                name: "ix_film_trials_shop_id",
                table: "film_trials",
                column: "shop_id");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "film_trials");
        }
    }
}
