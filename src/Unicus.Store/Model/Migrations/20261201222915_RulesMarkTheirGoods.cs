using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Unicus.Store.Model.Migrations
{
    /// <inheritdoc />
    public partial class RulesMarkTheirGoods : Migration
    {
        /// <summary>The published products that a rule may reach: all that it does reach, and few besides. Tags, conditions and the page
        /// that goods are bought through are not looked at. A product that was changed since its edition may sell there what is another's
        /// by now, so it counts for every rule that names SKUs.
        /// Names are looked up in sets, since a rule may name thousands.</summary>
        private const string Reached = """
            create function rule_reaches(rule jsonb) returns setof integer language sql stable as $$
              with products_named as materialized (
                select distinct upper(p) as code from jsonb_array_elements_text(rule -> 'scope' -> 'products') p),
              categories_named as materialized (
                select distinct lower(c) as name from jsonb_array_elements_text(rule -> 'scope' -> 'categories') c),
              codes as materialized (
                select upper(s) as code, true as is_scope from jsonb_array_elements_text(rule -> 'scope' -> 'skus') s
                union all select upper(k), false from jsonb_object_keys(rule -> 'effect' -> 'setBySku') k),
              coded as materialized (
                select s.product_id, c.is_scope from codes c join skus s on s.code_key = c.code
                union select s.product_id, c.is_scope from codes c
                    join sku_aliases a on a.code_key = c.code join skus s on s.id = a.sku_id),
              given as materialized (
                select exists (select from products_named) as products, exists (select from categories_named) as categories,
                  exists (select from codes where is_scope) as skus, exists (select from codes where not is_scope) as prices,
                  (select array_agg(c.id) from categories c where lower(c.name) in (select name from categories_named)) as holding)
              select e.product_id from given g cross join range_entries e join products p on p.id = e.product_id
              where (not g.products or upper(e.code) in (select code from products_named))
                and (not g.categories or e.categories && g.holding
                  or exists (select 1 from unnest(e.named) own where lower(own) in (select name from categories_named)))
                and (not g.skus or p.version is distinct from p.published_version
                  or e.product_id in (select product_id from coded where is_scope))
                and (not g.prices or p.version is distinct from p.published_version
                  or e.product_id in (select product_id from coded where not is_scope))
            $$;
            """;

        /// <summary>Of rules that may act, before or after a change, what they reach is due; nothing of drafts and of what is kept
        /// aside.</summary>
        private const string Told = """
            create function rule_acts(price_rules) returns boolean language sql immutable as
              $$ select not $1.archived and coalesce($1.document ->> 'state', 'on') <> 'draft' $$;
            create function rules_are_due(rules jsonb[]) returns void language plpgsql as $$
            declare marked bigint;
            begin
              insert into range_due (product_id, prices_only)
                select distinct r.product, true from unnest(rules) rule, rule_reaches(rule) r(product);
              get diagnostics marked = row_count;
              -- Plans that connections keep were made while next to nothing was due; after this they are made anew.
              if marked > 500 then
                analyze range_due;
              end if;
            end $$;
            drop trigger tell on price_rules;
            drop function tell_prices();
            create function tell_prices() returns trigger language plpgsql as $$
            begin
              perform pg_notify('unicus', 'prices');
              perform rules_are_due(array(select document from change c where rule_acts(c)));
              return null;
            end $$;
            create function tell_changed_prices() returns trigger language plpgsql as $$
            begin
              perform pg_notify('unicus', 'prices');
              perform rules_are_due(array(
                select document from before_change b where rule_acts(b)
                union all select document from after_change a where rule_acts(a)));
              return null;
            end $$;
            create trigger tell_insert after insert on price_rules referencing new table as change
              for each statement execute function tell_prices();
            create trigger tell_delete after delete on price_rules referencing old table as change
              for each statement execute function tell_prices();
            create trigger tell_update after update on price_rules referencing old table as before_change new table as after_change
              for each statement execute function tell_changed_prices();
            """;

        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql(Reached);
            migrationBuilder.Sql(Told);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder) =>
            migrationBuilder.Sql(
                """
                drop trigger tell_insert on price_rules;
                drop trigger tell_delete on price_rules;
                drop trigger tell_update on price_rules;
                drop function tell_prices();
                drop function tell_changed_prices();
                drop function rules_are_due(jsonb[]);
                drop function rule_acts(price_rules);
                drop function rule_reaches(jsonb);
                create function tell_prices() returns trigger language plpgsql as $$
                begin
                  perform pg_notify('unicus', 'prices');
                  perform all_are_due(true);
                  return null;
                end $$;
                create trigger tell after insert or update or delete on price_rules for each statement execute function tell_prices();
                """
            );
    }
}
