using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Unicus.Store.Model.Migrations
{
    /// <inheritdoc />
    public partial class PartsInLists : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<bool>(
                name: "is_group",
                table: "products",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<int>(
                name: "slot_count",
                table: "products",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            // Summaries are made anew; what was kept of groups for lists was no basis.
            migrationBuilder.Sql("update products set summary_version = 0 where definition ? 'parts'");
            migrationBuilder.Sql(
                "delete from range_bases b using products p where p.id = b.product_id and p.definition ? 'parts'"
            );
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "is_group",
                table: "products");

            migrationBuilder.DropColumn(
                name: "slot_count",
                table: "products");
        }
    }
}
