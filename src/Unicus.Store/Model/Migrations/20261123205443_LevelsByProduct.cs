using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Unicus.Store.Model.Migrations
{
    /// <inheritdoc />
    public partial class LevelsByProduct : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<int>(
                name: "product_id",
                table: "levels",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.Sql("update levels l set product_id = s.product_id from skus s where s.id = l.sku_id");

            migrationBuilder.CreateIndex(
                name: "ix_variants_product_id",
                table: "variants",
                column: "product_id",
                filter: "retired");

            migrationBuilder.CreateIndex(
                name: "ix_levels_product_id",
                table: "levels",
                column: "product_id");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "ix_variants_product_id",
                table: "variants");

            migrationBuilder.DropIndex(
                name: "ix_levels_product_id",
                table: "levels");

            migrationBuilder.DropColumn(
                name: "product_id",
                table: "levels");
        }
    }
}
