using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Unicus.Store.Model.Migrations
{
    /// <inheritdoc />
    public partial class Losses : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<DateTimeOffset>(
                name: "founded_at",
                table: "shop",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "typing",
                table: "product_changes",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "cancel_reason",
                table: "orders",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "beyond",
                table: "order_lines",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<string>(
                name: "order_token",
                table: "baskets",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "ordered_version",
                table: "baskets",
                type: "integer",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "version",
                table: "baskets",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.CreateIndex(
                name: "ix_outbox_at",
                table: "outbox",
                column: "at");

            migrationBuilder.CreateIndex(
                name: "ix_order_lines_product_id",
                table: "order_lines",
                column: "product_id");

            migrationBuilder.CreateIndex(
                name: "ix_baskets_changed_at",
                table: "baskets",
                column: "changed_at");

            migrationBuilder.AddForeignKey(
                name: "fk_order_lines_products_product_id",
                table: "order_lines",
                column: "product_id",
                principalTable: "products",
                principalColumn: "id",
                onDelete: ReferentialAction.Restrict);

            migrationBuilder.AddForeignKey(
                name: "fk_order_lines_skus_sku_id",
                table: "order_lines",
                column: "sku_id",
                principalTable: "skus",
                principalColumn: "id",
                onDelete: ReferentialAction.Restrict);

            // Shops that are there were ready.
            migrationBuilder.Sql("update shop set founded_at = now()");

            // Of variants that took the same GTIN at the same moment the first keeps it; the others say so.
            migrationBuilder.Sql("""
                update variants v set gtin = null, note = concat_ws(' ', note, 'GTIN', gtin, 'was on another variant too.')
                where gtin is not null and exists (select 1 from variants o where lpad(o.gtin, 14, '0') = lpad(v.gtin, 14, '0') and o.id < v.id)
                """);
            migrationBuilder.Sql("""
                alter table variants add constraint ex_variants_gtin
                exclude using btree (lpad(gtin, 14, '0') with =) where (gtin is not null) deferrable initially deferred
                """);

            // Kept as it is, so that a piece of a film is read without the rest.
            migrationBuilder.Sql("alter table videos alter column content set storage external");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("alter table variants drop constraint ex_variants_gtin");

            migrationBuilder.DropForeignKey(
                name: "fk_order_lines_products_product_id",
                table: "order_lines");

            migrationBuilder.DropForeignKey(
                name: "fk_order_lines_skus_sku_id",
                table: "order_lines");

            migrationBuilder.DropIndex(
                name: "ix_outbox_at",
                table: "outbox");

            migrationBuilder.DropIndex(
                name: "ix_order_lines_product_id",
                table: "order_lines");

            migrationBuilder.DropIndex(
                name: "ix_baskets_changed_at",
                table: "baskets");

            migrationBuilder.DropColumn(
                name: "founded_at",
                table: "shop");

            migrationBuilder.DropColumn(
                name: "typing",
                table: "product_changes");

            migrationBuilder.DropColumn(
                name: "cancel_reason",
                table: "orders");

            migrationBuilder.DropColumn(
                name: "beyond",
                table: "order_lines");

            migrationBuilder.DropColumn(
                name: "order_token",
                table: "baskets");

            migrationBuilder.DropColumn(
                name: "ordered_version",
                table: "baskets");

            migrationBuilder.DropColumn(
                name: "version",
                table: "baskets");
        }
    }
}
