using System;
using Microsoft.EntityFrameworkCore.Migrations;
using Npgsql.EntityFrameworkCore.PostgreSQL.Metadata;

#nullable disable

namespace ToughStart.Data.Migrations
{
    /// <inheritdoc />
    public partial class Shelf : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "survey_hash",
                table: "plans",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.CreateTable(
                name: "kit",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    shop_id = table.Column<Guid>(type: "uuid", nullable: false),
                    kind = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    flow_litres_per_minute = table.Column<double>(type: "double precision", nullable: true),
                    psi = table.Column<double>(type: "double precision", nullable: true),
                    size = table.Column<double>(type: "double precision", nullable: true),
                    angle_degrees = table.Column<double>(type: "double precision", nullable: true),
                    ml = table.Column<double>(type: "double precision", nullable: true),
                    dedication = table.Column<string>(type: "text", nullable: true),
                    grade = table.Column<string>(type: "text", nullable: true),
                    life = table.Column<int>(type: "integer", nullable: true),
                    used = table.Column<int>(type: "integer", nullable: false),
                    condition = table.Column<string>(type: "text", nullable: true),
                    retired = table.Column<bool>(type: "boolean", nullable: false),
                    author = table.Column<string>(type: "text", nullable: false),
                    xmin = table.Column<uint>(type: "xid", rowVersion: true, nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_kit", x => x.id);
                    table.ForeignKey(
                        name: "fk_kit_shops_shop_id",
                        column: x => x.shop_id,
                        principalTable: "shops",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "products",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    shop_id = table.Column<Guid>(type: "uuid", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    agent = table.Column<string>(type: "text", nullable: false),
                    basis = table.Column<string>(type: "text", nullable: false),
                    low = table.Column<string>(type: "text", nullable: true),
                    reference = table.Column<string>(type: "text", nullable: true),
                    high = table.Column<string>(type: "text", nullable: true),
                    dwell_minutes = table.Column<double>(type: "double precision", nullable: true),
                    max_dwell_minutes = table.Column<double>(type: "double precision", nullable: true),
                    neat_ph = table.Column<double>(type: "double precision", nullable: true),
                    working_ph = table.Column<double>(type: "double precision", nullable: true),
                    carrier = table.Column<string>(type: "text", nullable: true),
                    price = table.Column<decimal>(type: "numeric(12,2)", precision: 12, scale: 2, nullable: false),
                    pack_ml = table.Column<decimal>(type: "numeric(14,2)", precision: 14, scale: 2, nullable: false),
                    stock_ml = table.Column<decimal>(type: "numeric(14,2)", precision: 14, scale: 2, nullable: false),
                    least_ml = table.Column<decimal>(type: "numeric(14,2)", precision: 14, scale: 2, nullable: false),
                    batch = table.Column<string>(type: "text", nullable: true),
                    expiry = table.Column<DateOnly>(type: "date", nullable: true),
                    hazards = table.Column<string[]>(type: "text[]", nullable: false),
                    contains = table.Column<string[]>(type: "text[]", nullable: false),
                    allows = table.Column<string[]>(type: "text[]", nullable: false),
                    forbids = table.Column<string[]>(type: "text[]", nullable: false),
                    fluoride = table.Column<bool>(type: "boolean", nullable: false),
                    sheet_on = table.Column<DateOnly>(type: "date", nullable: true),
                    efficacy = table.Column<double>(type: "double precision", nullable: false),
                    retired = table.Column<bool>(type: "boolean", nullable: false),
                    author = table.Column<string>(type: "text", nullable: false),
                    xmin = table.Column<uint>(type: "xid", rowVersion: true, nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_products", x => x.id);
                    table.CheckConstraint("ck_products_stock", "stock_ml >= 0");
                    table.ForeignKey(
                        name: "fk_products_shops_shop_id",
                        column: x => x.shop_id,
                        principalTable: "shops",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "calibrations",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    kit_item_id = table.Column<Guid>(type: "uuid", nullable: false),
                    ml = table.Column<double>(type: "double precision", nullable: false),
                    seconds = table.Column<double>(type: "double precision", nullable: false),
                    flow_litres_per_minute = table.Column<double>(type: "double precision", nullable: false),
                    measured_at_lance = table.Column<bool>(type: "boolean", nullable: false),
                    struck = table.Column<bool>(type: "boolean", nullable: false),
                    author = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_calibrations", x => x.id);
                    table.ForeignKey(
                        name: "fk_calibrations_kit_kit_item_id",
                        column: x => x.kit_item_id,
                        principalTable: "kit",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "mixes",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    shop_id = table.Column<Guid>(type: "uuid", nullable: false),
                    number = table.Column<int>(type: "integer", nullable: false),
                    product_id = table.Column<Guid>(type: "uuid", nullable: false),
                    bottle_id = table.Column<Guid>(type: "uuid", nullable: false),
                    job_id = table.Column<Guid>(type: "uuid", nullable: true),
                    fraction = table.Column<double>(type: "double precision", nullable: false),
                    product_ml = table.Column<decimal>(type: "numeric(14,2)", precision: 14, scale: 2, nullable: false),
                    water_ml = table.Column<decimal>(type: "numeric(14,2)", precision: 14, scale: 2, nullable: false),
                    left_ml = table.Column<decimal>(type: "numeric(14,2)", precision: 14, scale: 2, nullable: false),
                    state = table.Column<string>(type: "text", nullable: false),
                    discard_by = table.Column<DateOnly>(type: "date", nullable: false),
                    author = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    xmin = table.Column<uint>(type: "xid", rowVersion: true, nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_mixes", x => x.id);
                    table.ForeignKey(
                        name: "fk_mixes_jobs_job_id",
                        column: x => x.job_id,
                        principalTable: "jobs",
                        principalColumn: "id");
                    table.ForeignKey(
                        name: "fk_mixes_kit_bottle_id",
                        column: x => x.bottle_id,
                        principalTable: "kit",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_mixes_products_product_id",
                        column: x => x.product_id,
                        principalTable: "products",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_mixes_shops_shop_id",
                        column: x => x.shop_id,
                        principalTable: "shops",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "sheets",
                columns: table => new
                {
                    product_id = table.Column<Guid>(type: "uuid", nullable: false),
                    file_name = table.Column<string>(type: "text", nullable: false),
                    pdf = table.Column<byte[]>(type: "bytea", nullable: false),
                    author = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_sheets", x => x.product_id);
                    table.ForeignKey(
                        name: "fk_sheets_products_product_id",
                        column: x => x.product_id,
                        principalTable: "products",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "stock_moves",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    sequence = table.Column<long>(type: "bigint", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityAlwaysColumn),
                    product_id = table.Column<Guid>(type: "uuid", nullable: false),
                    kind = table.Column<string>(type: "text", nullable: false),
                    ml = table.Column<decimal>(type: "numeric(14,2)", precision: 14, scale: 2, nullable: false),
                    balance_ml = table.Column<decimal>(type: "numeric(14,2)", precision: 14, scale: 2, nullable: false),
                    job_id = table.Column<Guid>(type: "uuid", nullable: true),
                    mix_id = table.Column<Guid>(type: "uuid", nullable: true),
                    note = table.Column<string>(type: "text", nullable: true),
                    author = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_stock_moves", x => x.id);
                    table.ForeignKey(
                        name: "fk_stock_moves_jobs_job_id",
                        column: x => x.job_id,
                        principalTable: "jobs",
                        principalColumn: "id");
                    table.ForeignKey(
                        name: "fk_stock_moves_products_product_id",
                        column: x => x.product_id,
                        principalTable: "products",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "stock_reservations",
                columns: table => new
                {
                    job_id = table.Column<Guid>(type: "uuid", nullable: false),
                    product_id = table.Column<Guid>(type: "uuid", nullable: false),
                    ml = table.Column<decimal>(type: "numeric(14,2)", precision: 14, scale: 2, nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_stock_reservations", x => new { x.job_id, x.product_id });
                    table.ForeignKey(
                        name: "fk_stock_reservations_jobs_job_id",
                        column: x => x.job_id,
                        principalTable: "jobs",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_stock_reservations_products_product_id",
                        column: x => x.product_id,
                        principalTable: "products",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "ix_calibrations_kit_item_id_at",
                table: "calibrations",
                columns: new[] { "kit_item_id", "at" });

            migrationBuilder.CreateIndex(
                name: "ix_kit_shop_id_kind_name",
                table: "kit",
                columns: new[] { "shop_id", "kind", "name" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_mixes_bottle_id_state",
                table: "mixes",
                columns: new[] { "bottle_id", "state" });

            migrationBuilder.CreateIndex(
                name: "ix_mixes_job_id",
                table: "mixes",
                column: "job_id");

            migrationBuilder.CreateIndex(
                name: "ix_mixes_product_id",
                table: "mixes",
                column: "product_id");

            migrationBuilder.CreateIndex(
                name: "ix_mixes_shop_id_number",
                table: "mixes",
                columns: new[] { "shop_id", "number" },
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
                name: "ix_stock_moves_job_id",
                table: "stock_moves",
                column: "job_id");

            migrationBuilder.CreateIndex(
                name: "ix_stock_moves_product_id_sequence",
                table: "stock_moves",
                columns: new[] { "product_id", "sequence" });

            migrationBuilder.CreateIndex(
                name: "ix_stock_reservations_product_id",
                table: "stock_reservations",
                column: "product_id");

            migrationBuilder.Sql("""
                CREATE UNIQUE INDEX ix_products_shop_id_lower_name ON products (shop_id, lower(name));
                CREATE TRIGGER stock_moves_append_only BEFORE UPDATE OR DELETE ON stock_moves
                FOR EACH ROW EXECUTE FUNCTION events_append_only();
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "calibrations");

            migrationBuilder.DropTable(
                name: "mixes");

            migrationBuilder.DropTable(
                name: "sheets");

            migrationBuilder.DropTable(
                name: "stock_moves");

            migrationBuilder.DropTable(
                name: "stock_reservations");

            migrationBuilder.DropTable(
                name: "kit");

            migrationBuilder.DropTable(
                name: "products");

            migrationBuilder.DropColumn(
                name: "survey_hash",
                table: "plans");
        }
    }
}
