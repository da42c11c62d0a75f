using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Unicus.Store.Model.Migrations
{
    /// <inheritdoc />
    public partial class LowLevels : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            // Orders are found by their address, those without an account too, and by the account they were placed in.
            migrationBuilder.Sql("drop index ix_orders_guests");
            migrationBuilder.Sql("create index ix_orders_email on orders (lower(email))");
            migrationBuilder.Sql("create index ix_orders_customer_id on orders (customer_id) where customer_id is not null");
            // The mark at which a SKU is low, as Cascade in the core finds it: a variant's own, else that of the first option whose value
            // sets one, else the product's; of variants that share a SKU the highest.
            migrationBuilder.Sql(
                """
                create view low_levels as
                select v.sku_id, max(coalesce(v.low_level, (
                  select (value->'figures'->>'lowLevel')::int
                  from jsonb_array_elements(p.definition->'options') with ordinality o(option, place),
                    jsonb_array_elements(o.option->'values') value
                  where value->'figures' ? 'lowLevel'
                    and position(',' || (o.option->>'key') || '=' || (value->>'key') || ',' in ',' || v."values" || ',') > 0
                  order by o.place limit 1), (p.definition->'base'->>'lowLevel')::int)) as low
                from variants v join products p on p.id = v.product_id group by v.sku_id
                """
            );
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("drop view low_levels");
            migrationBuilder.Sql("drop index ix_orders_email, ix_orders_customer_id");
            migrationBuilder.Sql("create index ix_orders_guests on orders (lower(btrim(email))) where customer_id is null");
        }
    }
}
