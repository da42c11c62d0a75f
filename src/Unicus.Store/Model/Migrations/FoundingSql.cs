namespace Unicus.Store.Model.Migrations;

/// <summary>What the model cannot say: extensions, indexes over expressions, and the triggers that tell of changes.</summary>
internal static class FoundingSql
{
    public const string Extensions = "create extension if not exists pg_trgm; create extension if not exists fuzzystrmatch;";

    public const string Indexes = """
        -- Of variants that would take the same GTIN at the same moment only one can.
        alter table variants add constraint ex_variants_gtin
          exclude using btree (lpad(gtin, 14, '0') with =) where (gtin is not null) deferrable initially deferred;
        -- Kept as it is, so that a piece of a film is read without the rest.
        alter table videos alter column content set storage external;
        -- Documents lie beside their rows, so that lists that do not look at them do not read them either.
        alter table products set (toast_tuple_target = 256);
        alter table editions set (toast_tuple_target = 256);
        create index ix_products_name_key on products (lower(name), id);
        -- Sets that are made up ahead are few among many products.
        create index ix_products_made_up on products (code) where definition->'parts'->>'stock' in ('own', 'own-then-parts');
        create index ix_skus_beginning on skus (code_key text_pattern_ops);
        create index ix_search_words_beginning on search_words (word text_pattern_ops);
        create index ix_search_words_trigrams on search_words using gin (word gin_trgm_ops);
        create index ix_search_words_near on search_words (left(word, 1), length(word));
        create index ix_orders_buyer on orders using gin ((buyer || ' ' || email) gin_trgm_ops);
        create index ix_order_leaves_sku on order_leaves (upper(sku) text_pattern_ops);
        """;

    public const string Triggers = """
        create function tell_products() returns trigger language plpgsql as $$
        begin
          if tg_op = 'DELETE' then
            perform pg_notify('unicus', 'product ' || id) from before_change;
          else
            perform pg_notify('unicus', 'product ' || id) from after_change;
          end if;
          return null;
        end $$;
        create trigger tell_insert after insert on products referencing new table as after_change
          for each statement execute function tell_products();
        create trigger tell_update after update on products referencing new table as after_change
          for each statement execute function tell_products();
        create trigger tell_delete after delete on products referencing old table as before_change
          for each statement execute function tell_products();

        create function tell_stock() returns trigger language plpgsql as $$
        declare moved int;
        begin
          for moved in insert into range_due (product_id) select distinct product_id from after_change returning product_id loop
            perform pg_notify('unicus', 'stock ' || moved);
          end loop;
          return null;
        end $$;
        create trigger tell_insert after insert on levels referencing new table as after_change
          for each statement execute function tell_stock();
        create trigger tell_update after update on levels referencing new table as after_change
          for each statement execute function tell_stock();

        create function tell() returns trigger language plpgsql as $$
        begin
          perform pg_notify('unicus', tg_argv[0]);
          return null;
        end $$;
        create trigger tell after insert or update or delete on shop for each statement execute function tell('shop');
        create trigger tell after insert or delete on api_keys for each statement execute function tell('keys');
        create trigger tell_withdrawn after update of withdrawn_at on api_keys for each statement execute function tell('keys');
        create trigger tell after update or delete on skus for each statement execute function tell('skus');
        create trigger tell after insert or update or delete on sku_aliases for each statement execute function tell('skus');
        create trigger tell after insert or update or delete on range_entries for each statement execute function tell('lists');
        create trigger tell after insert or delete on range_offers for each statement execute function tell('lists');

        -- What is counted for lists changes with what can be bought, and not with what it costs.
        create function tell_offers() returns trigger language plpgsql as $$
        begin
          if exists (select 1 from after_change) then
            perform pg_notify('unicus', 'lists');
          end if;
          return null;
        end $$;
        create trigger tell_update after update on range_offers referencing new table as after_change
          for each statement execute function tell_offers();
        create function tell_figures() returns trigger language plpgsql as $$
        begin
          if exists (select 1 from before_change b join after_change a using (product_id)
            where (b.from_price is null) <> (a.from_price is null)) then
            perform pg_notify('unicus', 'lists');
          end if;
          return null;
        end $$;
        create trigger tell_update after update on range_figures referencing old table as before_change new table as after_change
          for each statement execute function tell_figures();

        create trigger tell after insert or update or delete on customer_groups for each statement execute function tell('prices');
        create trigger tell after insert or update or delete on categories for each statement execute function tell('names');
        create trigger tell after insert or update or delete on library_options for each statement execute function tell('names');

        -- Plans that connections keep were made while next to nothing was due; after this they are made anew.
        create function all_are_due(only_prices boolean default false) returns void language plpgsql as $$
        begin
          insert into range_due (product_id, prices_only) select product_id, only_prices from range_entries;
          analyze range_due;
        end $$;

        create function tell_sets() returns trigger language plpgsql as $$
        begin
          perform pg_notify('unicus', 'sets');
          perform all_are_due();
          return null;
        end $$;
        create trigger tell after insert or update or delete on extra_sets for each statement execute function tell_sets();

        -- Floor, tax and the shop's day move every price that lists show.
        create function tell_terms() returns trigger language plpgsql as $$
        begin
          perform all_are_due();
          return null;
        end $$;
        create trigger tell_terms after update on shop for each row
          when (old.terms is distinct from new.terms or old.time_zone is distinct from new.time_zone) execute function tell_terms();

        create function tell_prices() returns trigger language plpgsql as $$
        begin
          perform pg_notify('unicus', 'prices');
          perform all_are_due(true);
          return null;
        end $$;
        create trigger tell after insert or update or delete on price_rules for each statement execute function tell_prices();
        """;
}
