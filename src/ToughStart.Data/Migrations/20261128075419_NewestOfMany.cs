using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ToughStart.Data.Migrations
{
    /// <inheritdoc />
    public partial class NewestOfMany : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "ix_mixes_bottle_id_state",
                table: "mixes");

            migrationBuilder.DropIndex(
                name: "ix_client_vehicles_plate",
                table: "client_vehicles");

            migrationBuilder.AddColumn<string>(
                name: "plate_key",
                table: "client_vehicles",
                type: "text",
                nullable: false,
                defaultValue: "");

            // As ClientVehicle.KeyOf makes it; by Unicode, whatever the collation of the database.
            migrationBuilder.Sql(
                "UPDATE client_vehicles SET plate_key = regexp_replace(upper(plate COLLATE \"und-x-icu\"), '[^[:alnum:]]', '', 'g')");

            migrationBuilder.CreateIndex(
                name: "ix_mixes_bottle_id_number",
                table: "mixes",
                columns: new[] { "bottle_id", "number" });

            migrationBuilder.CreateIndex(
                name: "ix_mixes_open",
                table: "mixes",
                column: "number",
                filter: "state = 'in-use'");

            migrationBuilder.CreateIndex(
                name: "ix_clients_name",
                table: "clients",
                column: "name");

            migrationBuilder.CreateIndex(
                name: "ix_client_vehicles_plate_key",
                table: "client_vehicles",
                column: "plate_key");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "ix_mixes_bottle_id_number",
                table: "mixes");

            migrationBuilder.DropIndex(
                name: "ix_mixes_open",
                table: "mixes");

            migrationBuilder.DropIndex(
                name: "ix_clients_name",
                table: "clients");

            migrationBuilder.DropIndex(
                name: "ix_client_vehicles_plate_key",
                table: "client_vehicles");

            migrationBuilder.DropColumn(
                name: "plate_key",
                table: "client_vehicles");

            migrationBuilder.CreateIndex(
                name: "ix_mixes_bottle_id_state",
                table: "mixes",
                columns: new[] { "bottle_id", "state" });

            migrationBuilder.CreateIndex(
                name: "ix_client_vehicles_plate",
                table: "client_vehicles",
                column: "plate");
        }
    }
}
