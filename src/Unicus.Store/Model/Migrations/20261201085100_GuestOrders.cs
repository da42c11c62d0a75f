using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Unicus.Store.Model.Migrations
{
    /// <inheritdoc />
    public partial class GuestOrders : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            // Orders without an account are found by the address that their buyer proved later.
            migrationBuilder.Sql("create index ix_orders_guests on orders (lower(btrim(email))) where customer_id is null");

        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("drop index ix_orders_guests");

        }
    }
}
