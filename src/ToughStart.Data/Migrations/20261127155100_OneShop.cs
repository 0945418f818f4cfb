using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ToughStart.Data.Migrations
{
    /// <inheritdoc />
    public partial class OneShop : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(
                name: "fk_client_vehicles_shops_shop_id",
                table: "client_vehicles");

            migrationBuilder.DropForeignKey(
                name: "fk_clients_shops_shop_id",
                table: "clients");

            migrationBuilder.DropForeignKey(
                name: "fk_film_trials_shops_shop_id",
                table: "film_trials");

            migrationBuilder.DropForeignKey(
                name: "fk_house_presets_shops_shop_id",
                table: "house_presets");

            migrationBuilder.DropForeignKey(
                name: "fk_jobs_shops_shop_id",
                table: "jobs");

            migrationBuilder.DropForeignKey(
                name: "fk_kit_shops_shop_id",
                table: "kit");

            migrationBuilder.DropForeignKey(
                name: "fk_mixes_shops_shop_id",
                table: "mixes");

            migrationBuilder.DropForeignKey(
                name: "fk_products_shops_shop_id",
                table: "products");

            migrationBuilder.DropForeignKey(
                name: "fk_sites_shops_shop_id",
                table: "sites");

            migrationBuilder.DropIndex(
                name: "ix_sites_shop_id_name",
                table: "sites");

            migrationBuilder.DropIndex(
                name: "ix_products_shop_id_agent_name",
                table: "products");

            migrationBuilder.DropIndex(
                name: "ix_products_shop_id_name",
                table: "products");

            migrationBuilder.DropIndex(
                name: "ix_mixes_shop_id_number",
                table: "mixes");

            migrationBuilder.DropIndex(
                name: "ix_kit_shop_id_kind_name",
                table: "kit");

            migrationBuilder.DropIndex(
                name: "ix_jobs_number",
                table: "jobs");

            migrationBuilder.DropIndex(
                name: "ix_jobs_shop_id_day",
                table: "jobs");

            migrationBuilder.DropIndex(
                name: "ix_jobs_shop_id_number",
                table: "jobs");

            migrationBuilder.DropIndex(
                name: "ix_house_presets_shop_id",
                table: "house_presets");

            migrationBuilder.DropIndex(
                name: "ix_house_presets_shop_id_name",
                table: "house_presets");

            migrationBuilder.DropIndex(
                name: "ix_film_trials_shop_id",
                table: "film_trials");

            migrationBuilder.DropIndex(
                name: "ix_clients_shop_id",
                table: "clients");

            migrationBuilder.DropIndex(
                name: "ix_client_vehicles_shop_id_plate",
                table: "client_vehicles");

            migrationBuilder.DropColumn(
                name: "shop_id",
                table: "sites");

            migrationBuilder.DropColumn(
                name: "shop_id",
                table: "products");

            migrationBuilder.DropColumn(
                name: "shop_id",
                table: "mixes");

            migrationBuilder.DropColumn(
                name: "shop_id",
                table: "kit");

            migrationBuilder.DropColumn(
                name: "shop_id",
                table: "jobs");

            migrationBuilder.DropColumn(
                name: "shop_id",
                table: "house_presets");

            migrationBuilder.DropColumn(
                name: "shop_id",
                table: "film_trials");

            migrationBuilder.DropColumn(
                name: "shop_id",
                table: "clients");

            migrationBuilder.DropColumn(
                name: "shop_id",
                table: "client_vehicles");

            migrationBuilder.CreateIndex(
                name: "ix_sites_name",
                table: "sites",
                column: "name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_products_agent_name",
                table: "products",
                columns: new[] { "agent", "name" });

            migrationBuilder.CreateIndex(
                name: "ix_products_name",
                table: "products",
                column: "name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_mixes_number",
                table: "mixes",
                column: "number",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_kit_kind_name",
                table: "kit",
                columns: new[] { "kind", "name" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_jobs_number",
                table: "jobs",
                column: "number",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_house_presets_for_new_jobs",
                table: "house_presets",
                column: "for_new_jobs",
                unique: true,
                filter: "for_new_jobs");

            migrationBuilder.CreateIndex(
                name: "ix_house_presets_name",
                table: "house_presets",
                column: "name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_client_vehicles_plate",
                table: "client_vehicles",
                column: "plate");

            // A name is one name however it is written; the index went with the column.
            migrationBuilder.Sql("CREATE UNIQUE INDEX ix_products_lower_name ON products (lower(name));");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "ix_sites_name",
                table: "sites");

            migrationBuilder.DropIndex(
                name: "ix_products_agent_name",
                table: "products");

            migrationBuilder.DropIndex(
                name: "ix_products_name",
                table: "products");

            migrationBuilder.DropIndex(
                name: "ix_mixes_number",
                table: "mixes");

            migrationBuilder.DropIndex(
                name: "ix_kit_kind_name",
                table: "kit");

            migrationBuilder.DropIndex(
                name: "ix_jobs_number",
                table: "jobs");

            migrationBuilder.DropIndex(
                name: "ix_house_presets_for_new_jobs",
                table: "house_presets");

            migrationBuilder.DropIndex(
                name: "ix_house_presets_name",
                table: "house_presets");

            migrationBuilder.DropIndex(
                name: "ix_client_vehicles_plate",
                table: "client_vehicles");

            migrationBuilder.AddColumn<Guid>(
                name: "shop_id",
                table: "sites",
                type: "uuid",
                nullable: false,
                defaultValue: new Guid("00000000-0000-0000-0000-000000000000"));

            migrationBuilder.AddColumn<Guid>(
                name: "shop_id",
                table: "products",
                type: "uuid",
                nullable: false,
                defaultValue: new Guid("00000000-0000-0000-0000-000000000000"));

            migrationBuilder.AddColumn<Guid>(
                name: "shop_id",
                table: "mixes",
                type: "uuid",
                nullable: false,
                defaultValue: new Guid("00000000-0000-0000-0000-000000000000"));

            migrationBuilder.AddColumn<Guid>(
                name: "shop_id",
                table: "kit",
                type: "uuid",
                nullable: false,
                defaultValue: new Guid("00000000-0000-0000-0000-000000000000"));

            migrationBuilder.AddColumn<Guid>(
                name: "shop_id",
                table: "jobs",
                type: "uuid",
                nullable: false,
                defaultValue: new Guid("00000000-0000-0000-0000-000000000000"));

            migrationBuilder.AddColumn<Guid>(
                name: "shop_id",
                table: "house_presets",
                type: "uuid",
                nullable: false,
                defaultValue: new Guid("00000000-0000-0000-0000-000000000000"));

            migrationBuilder.AddColumn<Guid>(
                name: "shop_id",
                table: "film_trials",
                type: "uuid",
                nullable: false,
                defaultValue: new Guid("00000000-0000-0000-0000-000000000000"));

            migrationBuilder.AddColumn<Guid>(
                name: "shop_id",
                table: "clients",
                type: "uuid",
                nullable: false,
                defaultValue: new Guid("00000000-0000-0000-0000-000000000000"));

            migrationBuilder.AddColumn<Guid>(
                name: "shop_id",
                table: "client_vehicles",
                type: "uuid",
                nullable: false,
                defaultValue: new Guid("00000000-0000-0000-0000-000000000000"));

            migrationBuilder.CreateIndex(
                name: "ix_sites_shop_id_name",
                table: "sites",
                columns: new[] { "shop_id", "name" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_products_shop_id_agent_name",
                table: "products",
                columns: new[] { "shop_id", "agent", "name" });

            migrationBuilder.CreateIndex(
                name: "ix_products_shop_id_name",
                table: "products",
                columns: new[] { "shop_id", "name" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_mixes_shop_id_number",
                table: "mixes",
                columns: new[] { "shop_id", "number" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_kit_shop_id_kind_name",
                table: "kit",
                columns: new[] { "shop_id", "kind", "name" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_jobs_number",
                table: "jobs",
                column: "number");

            migrationBuilder.CreateIndex(
                name: "ix_jobs_shop_id_day",
                table: "jobs",
                columns: new[] { "shop_id", "day" });

            migrationBuilder.CreateIndex(
                name: "ix_jobs_shop_id_number",
                table: "jobs",
                columns: new[] { "shop_id", "number" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_house_presets_shop_id",
                table: "house_presets",
                column: "shop_id",
                unique: true,
                filter: "for_new_jobs");

            migrationBuilder.CreateIndex(
                name: "ix_house_presets_shop_id_name",
                table: "house_presets",
                columns: new[] { "shop_id", "name" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_film_trials_shop_id",
                table: "film_trials",
                column: "shop_id");

            migrationBuilder.CreateIndex(
                name: "ix_clients_shop_id",
                table: "clients",
                column: "shop_id");

            migrationBuilder.CreateIndex(
                name: "ix_client_vehicles_shop_id_plate",
                table: "client_vehicles",
                columns: new[] { "shop_id", "plate" });

            migrationBuilder.AddForeignKey(
                name: "fk_client_vehicles_shops_shop_id",
                table: "client_vehicles",
                column: "shop_id",
                principalTable: "shops",
                principalColumn: "id",
                onDelete: ReferentialAction.Cascade);

            migrationBuilder.AddForeignKey(
                name: "fk_clients_shops_shop_id",
                table: "clients",
                column: "shop_id",
                principalTable: "shops",
                principalColumn: "id",
                onDelete: ReferentialAction.Cascade);

            migrationBuilder.AddForeignKey(
                name: "fk_film_trials_shops_shop_id",
                table: "film_trials",
                column: "shop_id",
                principalTable: "shops",
                principalColumn: "id",
                onDelete: ReferentialAction.Cascade);

            migrationBuilder.AddForeignKey(
                name: "fk_house_presets_shops_shop_id",
                table: "house_presets",
                column: "shop_id",
                principalTable: "shops",
                principalColumn: "id",
                onDelete: ReferentialAction.Cascade);

            migrationBuilder.AddForeignKey(
                name: "fk_jobs_shops_shop_id",
                table: "jobs",
                column: "shop_id",
                principalTable: "shops",
                principalColumn: "id",
                onDelete: ReferentialAction.Cascade);

            migrationBuilder.AddForeignKey(
                name: "fk_kit_shops_shop_id",
                table: "kit",
                column: "shop_id",
                principalTable: "shops",
                principalColumn: "id",
                onDelete: ReferentialAction.Cascade);

            migrationBuilder.AddForeignKey(
                name: "fk_mixes_shops_shop_id",
                table: "mixes",
                column: "shop_id",
                principalTable: "shops",
                principalColumn: "id",
                onDelete: ReferentialAction.Cascade);

            migrationBuilder.AddForeignKey(
                name: "fk_products_shops_shop_id",
                table: "products",
                column: "shop_id",
                principalTable: "shops",
                principalColumn: "id",
                onDelete: ReferentialAction.Cascade);

            migrationBuilder.AddForeignKey(
                name: "fk_sites_shops_shop_id",
                table: "sites",
                column: "shop_id",
                principalTable: "shops",
                principalColumn: "id",
                onDelete: ReferentialAction.Cascade);
        }
    }
}
