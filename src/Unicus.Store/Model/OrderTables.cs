using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>The tables of baskets, of orders, and of what is bought together.</summary>
internal static class OrderTables
{
    public static void Make(ModelBuilder model)
    {
        model.Entity<BasketRow>(e =>
        {
            e.Property(x => x.Lines).HasColumnType("jsonb");
            e.HasIndex(x => x.ChangedAt);
        });
        model.HasSequence<int>("order_numbers").StartsAt(1001);
        model.Entity<OrderRow>(e =>
        {
            e.HasKey(x => x.Number);
            e.Property(x => x.Number).HasDefaultValueSql("nextval('order_numbers')");
            e.HasIndex(x => x.Token).IsUnique();
            e.HasIndex(x => x.PlacedAt);
            e.HasIndex(x => new { x.State, x.PlacedAt });
            e.HasMany(x => x.Lines).WithOne().HasForeignKey(x => x.OrderNumber);
            e.HasMany(x => x.Events).WithOne().HasForeignKey(x => x.OrderNumber).OnDelete(DeleteBehavior.Restrict);
            foreach (var json in new[] { "Reductions", "Coupons" })
                e.Property(json).HasColumnType("jsonb");
        });
        model.Entity<OrderEventRow>(e =>
        {
            e.HasKey(x => new { x.OrderNumber, x.Sequence });
            e.Property(x => x.Data).HasColumnType("jsonb");
        });
        model.Entity<OrderLineRow>(e =>
        {
            e.HasIndex(x => x.SkuId);
            // What was ordered cannot be deleted, not even at the same moment.
            e.HasOne<ProductRow>().WithMany().HasForeignKey(x => x.ProductId).OnDelete(DeleteBehavior.Restrict);
            e.HasOne<SkuRow>().WithMany().HasForeignKey(x => x.SkuId).OnDelete(DeleteBehavior.Restrict);
            foreach (var json in new[] { "Configuration", "Working" })
                e.Property(json).HasColumnType("jsonb");
        });
        model.Entity<OrderLeafRow>(e =>
        {
            e.HasIndex(x => x.SkuId);
            e.HasOne<OrderLineRow>().WithMany(l => l.Leaves).HasForeignKey(x => x.OrderLineId);
            e.HasOne<ProductRow>().WithMany().HasForeignKey(x => x.ProductId).OnDelete(DeleteBehavior.Restrict);
            e.HasOne<SkuRow>().WithMany().HasForeignKey(x => x.SkuId).OnDelete(DeleteBehavior.Restrict);
        });
        model.Entity<BoughtTogetherRow>(e =>
        {
            e.ToTable("bought_together");
            e.HasKey(x => new { x.ProductId, x.OtherId });
            e.HasOne<ProductRow>().WithMany().HasForeignKey(x => x.ProductId).OnDelete(DeleteBehavior.Cascade);
            e.HasOne<ProductRow>().WithMany().HasForeignKey(x => x.OtherId).OnDelete(DeleteBehavior.Cascade);
        });
    }
}
