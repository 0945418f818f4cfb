using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ToughStart.Data.Migrations
{
    /// <inheritdoc />
    public partial class ShelfIndexes : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateIndex(
                name: "ix_products_agent_parts",
                table: "products",
                column: "agent")
                .Annotation("Npgsql:IndexMethod", "gin")
                .Annotation("Npgsql:IndexOperators", new[] { "gin_trgm_ops" });

            migrationBuilder.CreateIndex(
                name: "ix_products_low",
                table: "products",
                column: "name",
                filter: "NOT retired AND stock_ml < least_ml");

            migrationBuilder.CreateIndex(
                name: "ix_products_name_parts",
                table: "products",
                column: "name")
                .Annotation("Npgsql:IndexMethod", "gin")
                .Annotation("Npgsql:IndexOperators", new[] { "gin_trgm_ops" });
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "ix_products_agent_parts",
                table: "products");

            migrationBuilder.DropIndex(
                name: "ix_products_low",
                table: "products");

            migrationBuilder.DropIndex(
                name: "ix_products_name_parts",
                table: "products");
        }
    }
}
