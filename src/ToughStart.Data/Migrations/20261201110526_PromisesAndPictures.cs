using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ToughStart.Data.Migrations
{
    /// <inheritdoc />
    public partial class PromisesAndPictures : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<Guid>(
                name: "mark_id",
                table: "photos",
                type: "uuid",
                nullable: true);

            migrationBuilder.AddColumn<DateTimeOffset>(
                name: "begins_at",
                table: "jobs",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<DateTimeOffset>(
                name: "promised_at",
                table: "jobs",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.CreateIndex(
                name: "ix_photos_mark_id",
                table: "photos",
                column: "mark_id");

            migrationBuilder.AddForeignKey(
                name: "fk_photos_marks_mark_id",
                table: "photos",
                column: "mark_id",
                principalTable: "gate_marks",
                principalColumn: "id");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(
                name: "fk_photos_marks_mark_id",
                table: "photos");

            migrationBuilder.DropIndex(
                name: "ix_photos_mark_id",
                table: "photos");

            migrationBuilder.DropColumn(
                name: "mark_id",
                table: "photos");

            migrationBuilder.DropColumn(
                name: "begins_at",
                table: "jobs");

            migrationBuilder.DropColumn(
                name: "promised_at",
                table: "jobs");
        }
    }
}
