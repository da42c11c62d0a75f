using System;
using Microsoft.EntityFrameworkCore.Migrations;
using Npgsql.EntityFrameworkCore.PostgreSQL.Metadata;

#nullable disable

namespace Unicus.Store.Model.Migrations
{
    /// <inheritdoc />
    public partial class Films : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string[]>(
                name: "video_hosts",
                table: "shop",
                type: "text[]",
                nullable: false,
                defaultValue: new string[0]);

            migrationBuilder.AddColumn<DateTimeOffset>(
                name: "beat",
                table: "sheet_uploads",
                type: "timestamp with time zone",
                nullable: false,
                defaultValue: new DateTimeOffset(new DateTime(1, 1, 1, 0, 0, 0, 0, DateTimeKind.Unspecified), new TimeSpan(0, 0, 0, 0, 0)));

            migrationBuilder.AddColumn<string>(
                name: "code",
                table: "sheet_uploads",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "phase",
                table: "sheet_uploads",
                type: "text",
                nullable: false,
                defaultValue: "Failed");

            migrationBuilder.AddColumn<string>(
                name: "report",
                table: "sheet_uploads",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "rows_done",
                table: "sheet_uploads",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<int>(
                name: "rows_total",
                table: "sheet_uploads",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<bool>(
                name: "stop",
                table: "sheet_uploads",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.CreateTable(
                name: "videos",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    file = table.Column<string>(type: "text", nullable: false),
                    content_type = table.Column<string>(type: "text", nullable: false),
                    content = table.Column<byte[]>(type: "bytea", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_videos", x => x.id);
                });

            migrationBuilder.CreateIndex(
                name: "ix_videos_file",
                table: "videos",
                column: "file",
                unique: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "videos");

            migrationBuilder.DropColumn(
                name: "video_hosts",
                table: "shop");

            migrationBuilder.DropColumn(
                name: "beat",
                table: "sheet_uploads");

            migrationBuilder.DropColumn(
                name: "code",
                table: "sheet_uploads");

            migrationBuilder.DropColumn(
                name: "phase",
                table: "sheet_uploads");

            migrationBuilder.DropColumn(
                name: "report",
                table: "sheet_uploads");

            migrationBuilder.DropColumn(
                name: "rows_done",
                table: "sheet_uploads");

            migrationBuilder.DropColumn(
                name: "rows_total",
                table: "sheet_uploads");

            migrationBuilder.DropColumn(
                name: "stop",
                table: "sheet_uploads");
        }
    }
}
