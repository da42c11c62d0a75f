using Microsoft.EntityFrameworkCore.Migrations;
using Npgsql.EntityFrameworkCore.PostgreSQL.Metadata;

#nullable disable

namespace Unicus.Store.Model.Migrations
{
    /// <inheritdoc />
    public partial class Library : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "former",
                table: "variants",
                type: "jsonb",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "gtin",
                table: "variants",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "summary_version",
                table: "products",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<string>(
                name: "after",
                table: "product_changes",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<string[]>(
                name: "options",
                table: "categories",
                type: "text[]",
                nullable: false,
                defaultValue: new string[0]);

            migrationBuilder.AddColumn<int>(
                name: "parent_id",
                table: "categories",
                type: "integer",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "search",
                table: "categories",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<string[]>(
                name: "specifications",
                table: "categories",
                type: "text[]",
                nullable: false,
                defaultValue: new string[0]);

            migrationBuilder.CreateTable(
                name: "address_aliases",
                columns: table => new
                {
                    address = table.Column<string>(type: "text", nullable: false),
                    product_id = table.Column<int>(type: "integer", nullable: false),
                    values = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_address_aliases", x => x.address);
                    table.ForeignKey(
                        name: "fk_address_aliases_products_product_id",
                        column: x => x.product_id,
                        principalTable: "products",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "library_options",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    key = table.Column<string>(type: "text", nullable: false),
                    label = table.Column<string>(type: "text", nullable: false),
                    document = table.Column<string>(type: "jsonb", nullable: false),
                    version = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_library_options", x => x.id);
                });

            migrationBuilder.CreateIndex(
                name: "ix_variants_gtin",
                table: "variants",
                column: "gtin",
                filter: "gtin is not null");

            migrationBuilder.CreateIndex(
                name: "ix_categories_parent_id",
                table: "categories",
                column: "parent_id");

            migrationBuilder.CreateIndex(
                name: "ix_address_aliases_product_id",
                table: "address_aliases",
                column: "product_id");

            migrationBuilder.CreateIndex(
                name: "ix_library_options_key",
                table: "library_options",
                column: "key",
                unique: true);

            migrationBuilder.AddForeignKey(
                name: "fk_categories_categories_parent_id",
                table: "categories",
                column: "parent_id",
                principalTable: "categories",
                principalColumn: "id",
                onDelete: ReferentialAction.Restrict);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(
                name: "fk_categories_categories_parent_id",
                table: "categories");

            migrationBuilder.DropTable(
                name: "address_aliases");

            migrationBuilder.DropTable(
                name: "library_options");

            migrationBuilder.DropIndex(
                name: "ix_variants_gtin",
                table: "variants");

            migrationBuilder.DropIndex(
                name: "ix_categories_parent_id",
                table: "categories");

            migrationBuilder.DropColumn(
                name: "former",
                table: "variants");

            migrationBuilder.DropColumn(
                name: "gtin",
                table: "variants");

            migrationBuilder.DropColumn(
                name: "summary_version",
                table: "products");

            migrationBuilder.DropColumn(
                name: "after",
                table: "product_changes");

            migrationBuilder.DropColumn(
                name: "options",
                table: "categories");

            migrationBuilder.DropColumn(
                name: "parent_id",
                table: "categories");

            migrationBuilder.DropColumn(
                name: "search",
                table: "categories");

            migrationBuilder.DropColumn(
                name: "specifications",
                table: "categories");
        }
    }
}
