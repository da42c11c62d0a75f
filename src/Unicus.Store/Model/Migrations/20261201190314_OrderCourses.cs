using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Unicus.Store.Model.Migrations
{
    /// <inheritdoc />
    public partial class OrderCourses : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "order_events",
                columns: table => new
                {
                    order_number = table.Column<int>(type: "integer", nullable: false),
                    sequence = table.Column<int>(type: "integer", nullable: false),
                    kind = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    by = table.Column<string>(type: "text", nullable: false),
                    data = table.Column<string>(type: "jsonb", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_order_events", x => new { x.order_number, x.sequence });
                    table.ForeignKey(
                        name: "fk_order_events_orders_order_number",
                        column: x => x.order_number,
                        principalTable: "orders",
                        principalColumn: "number",
                        onDelete: ReferentialAction.Restrict);
                });
            migrationBuilder.Sql(CarryOver);
            migrationBuilder.Sql(
                """
                create function order_events_stay() returns trigger language plpgsql as $$
                begin raise exception 'What happened to an order is not changed.'; end $$;
                create trigger stay before update or delete on order_events for each row execute function order_events_stay();
                """
            );
            migrationBuilder.RenameColumn(name: "dispatched_at", table: "orders", newName: "ended_at");
            migrationBuilder.Sql("update orders set ended_at = cancelled_at where state = 2");
            foreach (var column in new[] { "cancel_reason", "cancelled_at" })
                migrationBuilder.DropColumn(name: column, table: "orders");
            foreach (var column in new[] { "beyond", "dropped", "locations", "refunded", "sent", "units_at" })
                migrationBuilder.DropColumn(name: column, table: "order_leaves");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder) =>
            throw new NotSupportedException("Events of orders are not put back into columns: take the backup made before.");

        /// <summary>Makes events of what the columns say. When and why single parts were cancelled was not kept: the day is that of the
        /// movement, the reason is empty. The units that left before the rest count as having lain at the first place.</summary>
        private const string CarryOver =
            """
            create temporary table carried on commit drop as
            with moved as (
              select order_number, sku_id, sum(allocated) filter (where kind = 8) as set_aside
              from movements where order_number is not null group by order_number, sku_id
            )
            select l.order_number, l.position as line, f.position as leaf, f.sent, f.dropped, f.beyond, f.locations, f.units_at,
              f.units - f.sent - f.dropped as open,
              coalesce((select sum(u) from unnest(f.units_at) u), 0) as aside,
              case when cardinality(f.locations) = 0 then 0
                -- What is in a set that was made up ahead was set aside in part, and goes as one.
                when exists (select 1 from order_leaves m where m.order_line_id = f.order_line_id and m.made_up and m.id <> f.id
                  and (m.path = '' or f.path = m.path or starts_with(f.path, m.path || '/')))
                then case when (select sum(u) from unnest(f.units_at) u) > 0 then (select sum(u) from unnest(f.units_at) u)
                  else least(f.units, coalesce(v.set_aside, 0)) end
                else f.units end as at_first
            from order_lines l join order_leaves f on f.order_line_id = l.id
              left join moved v on v.order_number = l.order_number and v.sku_id = f.sku_id;

            create index on carried (order_number);
            create temporary table happened on commit drop as
            with moved as (
              select order_number, max(at) filter (where kind = 1) as sale, max(at) filter (where kind = 9) as freed,
                min(at) filter (where kind = 9) as freed_first, min(by) filter (where kind = 8) as placer,
                max(by) filter (where kind <> 8) as ender
              from movements where order_number is not null group by order_number
            ), part as (
              select order_number, bool_or(dropped > 0) as dropped, bool_or(sent > 0) as sent, bool_or(open > 0) as open
              from carried group by order_number
            ), whole as (
              select o.number, o.state, o.placed_at, o.dispatched_at, o.cancelled_at, o.cancel_reason, m.sale, m.freed, m.freed_first,
                coalesce(m.placer, '') as placer, coalesce(m.ender, '') as ender,
                coalesce(p.dropped, false) as dropped, coalesce(p.sent, false) as sent,
                coalesce(p.open, true) and o.state = 2 as cancelled
              from orders o left join part p on p.order_number = o.number left join moved m on m.order_number = o.number
            )
            select number, 0 as rank, 'placed' as kind, placed_at as at, placer as by, null as reason from whole
            union all
            select number, case when freed > sale then 2 else 1 end, 'dropped',
              case when state = 1 and freed > sale then dispatched_at when state = 2 and not cancelled then cancelled_at
                when state = 2 then coalesce(freed_first, placed_at) else coalesce(freed, placed_at) end,
              ender, case when state = 2 and not cancelled then cancel_reason end
            from whole where dropped
            union all
            select number, case when freed > sale then 1 else 2 end, 'sent',
              case when state = 1 and (not dropped or not coalesce(freed > sale, false)) then dispatched_at
                else coalesce(sale, placed_at) end,
              ender, null
            from whole where sent or state = 1
            union all
            select number, 3, 'cancelled', cancelled_at, ender, cancel_reason from whole where cancelled;

            insert into order_events (order_number, sequence, kind, at, by, data)
            select h.number, row_number() over (partition by h.number order by h.rank) - 1,
              case h.kind when 'cancelled' then 'dropped' else h.kind end, h.at, h.by,
              jsonb_strip_nulls(case h.kind
                when 'placed' then jsonb_build_object(
                  'at', coalesce((select jsonb_agg(jsonb_build_array(c.line, c.leaf, w.place,
                      w.units + case when w.i = 1 then c.at_first - c.aside else 0 end) order by c.line, c.leaf, w.i)
                    from carried c, unnest(c.locations, c.units_at) with ordinality w(place, units, i) where c.order_number = h.number),
                    '[]'),
                  'beyond', (select jsonb_agg(jsonb_build_array(c.line, c.leaf, c.beyond) order by c.line, c.leaf)
                    from carried c where c.order_number = h.number and c.beyond > 0 and cardinality(c.locations) > 0))
                else jsonb_build_object(
                  'units', coalesce((select jsonb_agg(jsonb_build_array(c.line, c.leaf, u.units) order by c.line, c.leaf)
                    from carried c, lateral (select case h.kind when 'sent' then c.sent when 'dropped' then c.dropped else c.open end
                      as units) u
                    where c.order_number = h.number and u.units > 0), '[]'),
                  'reason', h.reason, 'withOrder', case when h.kind = 'cancelled' then true end)
                end)
            from happened h;
            """;
    }
}
