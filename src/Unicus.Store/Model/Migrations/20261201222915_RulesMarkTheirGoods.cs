using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Unicus.Store.Model.Migrations
{
    /// <inheritdoc />
    public partial class RulesMarkTheirGoods : Migration
    {
        /// <summary>The published products that a rule may reach: all that it does reach, and few besides. Tags, conditions and the page
        /// that goods are bought through are not looked at. A product that was changed since its edition may sell there what is another's
        /// by now, so it counts for every rule that names SKUs.</summary>
        private const string Reached = """
            create function rule_reaches(rule jsonb) returns setof integer language sql stable as $$
              with scope as (select rule -> 'scope' as said),
              named as (
                select
                  (select array_agg(upper(p)) from jsonb_array_elements_text(said -> 'products') p) as products,
                  (select array_agg(upper(s)) from jsonb_array_elements_text(said -> 'skus') s) as skus,
                  (select array_agg(lower(c)) from jsonb_array_elements_text(said -> 'categories') c) as categories,
                  (select array_agg(upper(k)) from jsonb_object_keys(rule -> 'effect' -> 'setBySku') k) as priced
                from scope),
              holding as (
                select array_agg(c.id) as ids from categories c, named n where lower(c.name) = any(n.categories)),
              coded as (
                select k.code_key, s.product_id
                from (select code_key, id from skus union all select code_key, sku_id from sku_aliases) k join skus s on s.id = k.id
                where k.code_key in (select unnest(n.skus || n.priced) from named n))
              select e.product_id from range_entries e
              join products p on p.id = e.product_id
              cross join named n
              where (n.products is null or upper(e.code) = any(n.products))
                and (n.categories is null or e.categories && (select ids from holding)
                  or exists (select 1 from unnest(e.named) own where lower(own) = any(n.categories)))
                and (n.skus is null or p.version is distinct from p.published_version
                  or exists (select 1 from coded c where c.product_id = e.product_id and c.code_key = any(n.skus)))
                and (n.priced is null or p.version is distinct from p.published_version
                  or exists (select 1 from coded c where c.product_id = e.product_id and c.code_key = any(n.priced)))
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
