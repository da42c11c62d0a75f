using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Unicus.Store.Model.Migrations
{
    /// <inheritdoc />
    public partial class VariantPicture : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "picture",
                table: "variants",
                type: "text",
                nullable: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "picture",
                table: "variants");
        }
    }
}
