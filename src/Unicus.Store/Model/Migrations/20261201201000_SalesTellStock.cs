using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Unicus.Store.Model.Migrations
{
    /// <inheritdoc />
    public partial class SalesTellStock : Migration
    {
        /// <summary>What makes a product another one: all but how many there are, which stock tells.</summary>
        private const string Columns = """
            id, address, away_edition, categories, changed_at, code, counted, definition, doubt_count, edition, highest_margin,
            highest_price, is_group, length_unit, lowest_margin, lowest_price, name, not_made_count, picture, published_at,
            published_version, put_away_at, put_away_by, search_text, slot_count, stop_count, summary_version, tags, variant_count,
            version, weight_unit, words
            """;

        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder) =>
            migrationBuilder.Sql(
                $"""
                drop trigger tell_update on products;
                create function tell_product() returns trigger language plpgsql as $$
                begin
                  perform pg_notify('unicus', 'product ' || new.id);
                  return null;
                end $$;
                create trigger tell_update after update of {Columns} on products for each row execute function tell_product();
                """
            );

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder) =>
            migrationBuilder.Sql(
                """
                drop trigger tell_update on products;
                drop function tell_product();
                create trigger tell_update after update on products referencing new table as after_change
                  for each statement execute function tell_products();
                """
            );
    }
}
