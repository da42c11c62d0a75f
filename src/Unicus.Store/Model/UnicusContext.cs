using Microsoft.AspNetCore.DataProtection.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore;
using Npgsql;

namespace Unicus.Store;

/// <summary>The database: unit of work and tables.</summary>
public sealed class UnicusContext(DbContextOptions<UnicusContext> options) : DbContext(options), IDataProtectionKeyContext
{
    internal DbSet<ShopRow> Shops => Set<ShopRow>();
    internal DbSet<LocationRow> Locations => Set<LocationRow>();
    internal DbSet<CategoryRow> Categories => Set<CategoryRow>();
    internal DbSet<LibraryOptionRow> LibraryOptions => Set<LibraryOptionRow>();
    internal DbSet<AddressAlias> AddressAliases => Set<AddressAlias>();
    internal DbSet<ProductRow> Products => Set<ProductRow>();
    internal DbSet<VariantRow> Variants => Set<VariantRow>();
    internal DbSet<SkuRow> Skus => Set<SkuRow>();
    internal DbSet<SkuAlias> SkuAliases => Set<SkuAlias>();
    internal DbSet<EditionRow> Editions => Set<EditionRow>();
    internal DbSet<ProductChange> ProductChanges => Set<ProductChange>();
    internal DbSet<ExtraSetRow> ExtraSets => Set<ExtraSetRow>();
    internal DbSet<ExtraSetChange> ExtraSetChanges => Set<ExtraSetChange>();
    internal DbSet<PictureRow> Pictures => Set<PictureRow>();
    internal DbSet<LevelRow> Levels => Set<LevelRow>();
    internal DbSet<MovementRow> Movements => Set<MovementRow>();
    internal DbSet<BasketRow> Baskets => Set<BasketRow>();
    internal DbSet<OrderRow> Orders => Set<OrderRow>();
    internal DbSet<OrderLineRow> OrderLines => Set<OrderLineRow>();
    internal DbSet<OrderLeafRow> OrderLeaves => Set<OrderLeafRow>();
    internal DbSet<OrderEventRow> OrderEvents => Set<OrderEventRow>();
    internal DbSet<BoughtTogetherRow> BoughtTogether => Set<BoughtTogetherRow>();
    internal DbSet<RangeEntryRow> RangeEntries => Set<RangeEntryRow>();
    internal DbSet<RangeFiguresRow> RangeFigures => Set<RangeFiguresRow>();
    internal DbSet<RangeBasisRow> RangeBases => Set<RangeBasisRow>();
    internal DbSet<RangeOfferRow> RangeOffers => Set<RangeOfferRow>();
    internal DbSet<RangeDueRow> RangeDue => Set<RangeDueRow>();
    internal DbSet<SearchWordRow> SearchWords => Set<SearchWordRow>();
    internal DbSet<KeptReply> KeptReplies => Set<KeptReply>();
    internal DbSet<PriceRuleRow> PriceRules => Set<PriceRuleRow>();
    internal DbSet<PriceHistoryRow> PriceHistory => Set<PriceHistoryRow>();
    internal DbSet<CustomerGroupRow> CustomerGroups => Set<CustomerGroupRow>();
    internal DbSet<CustomerRow> Customers => Set<CustomerRow>();
    internal DbSet<CouponCodeRow> CouponCodes => Set<CouponCodeRow>();
    internal DbSet<RuleUseRow> RuleUses => Set<RuleUseRow>();
    internal DbSet<VideoRow> Videos => Set<VideoRow>();
    internal DbSet<SheetUpload> SheetUploads => Set<SheetUpload>();
    internal DbSet<OutboxMessage> Outbox => Set<OutboxMessage>();
    internal DbSet<PersonRow> People => Set<PersonRow>();
    internal DbSet<SessionRow> Sessions => Set<SessionRow>();
    internal DbSet<EventRow> Events => Set<EventRow>();
    internal DbSet<ApiKeyRow> ApiKeys => Set<ApiKeyRow>();
    public DbSet<DataProtectionKey> DataProtectionKeys => Set<DataProtectionKey>();

    /// <summary>
    /// Sets a context up for a connection string; the one place that says how. Statements that recur are prepared once per connection; the
    /// database's own just-in-time compiling is off, since it takes a second for statements that take a few milliseconds.
    /// </summary>
    public static void Configure(DbContextOptionsBuilder builder, string connection) =>
        builder
            .UseNpgsql(
                new NpgsqlConnectionStringBuilder(connection)
                {
                    MaxAutoPrepare = 80,
                    AutoPrepareMinUsages = 3,
                    NoResetOnClose = true,
                    Options = "-c jit=off",
                }.ConnectionString
            )
            .UseSnakeCaseNamingConvention();

    /// <summary>Saves in a transaction always, so that what is told of the change goes with it.</summary>
    public override Task<int> SaveChangesAsync(bool acceptAllChangesOnSuccess, CancellationToken cancellationToken = default)
    {
        Database.AutoTransactionBehavior = AutoTransactionBehavior.Always;
        return base.SaveChangesAsync(acceptAllChangesOnSuccess, cancellationToken);
    }

    /// <summary>A column of words that the database makes of <c>search_text</c>.</summary>
    private static void Searched(Microsoft.EntityFrameworkCore.Metadata.Builders.PropertyBuilder words) =>
        words.HasComputedColumnSql("to_tsvector('simple', search_text)", stored: true);

    /// <summary>People, stays, keys and the log of events.</summary>
    private static void Doors(ModelBuilder model)
    {
        model.Entity<PersonRow>(e =>
        {
            e.ToTable("people");
            e.HasIndex(x => x.EmailKey).IsUnique();
            e.HasIndex(x => x.LinkHash).HasFilter("link_hash is not null");
        });
        model.Entity<SessionRow>(e =>
        {
            e.HasIndex(x => new { x.Scheme, x.Owner });
            e.HasIndex(x => x.EndsAt);
        });
        model.Entity<EventRow>(e =>
        {
            e.Property(x => x.Kind).HasConversion<string>();
            e.HasIndex(x => new { x.Subject, x.At });
            e.HasIndex(x => x.At);
        });
        model.Entity<ApiKeyRow>().HasIndex(x => x.Hash).IsUnique();
    }

    protected override void OnModelCreating(ModelBuilder modelBuilder)
    {
        base.OnModelCreating(modelBuilder);
        Doors(modelBuilder);
        Goods(modelBuilder);
        Lists(modelBuilder);
        Matrix(modelBuilder);
        Stock(modelBuilder);
        OrderTables.Make(modelBuilder);
        Prices(modelBuilder);
    }

    /// <summary>The shop and its products.</summary>
    private static void Goods(ModelBuilder model)
    {
        model.Entity<ShopRow>(e =>
        {
            e.ToTable("shop");
            e.Property(x => x.Id).ValueGeneratedNever();
            e.Property(x => x.Terms).HasColumnType("jsonb");
            e.Property(x => x.Version).IsConcurrencyToken();
        });
        model.Entity<LocationRow>().HasIndex(x => x.Key).IsUnique();
        model.Entity<CategoryRow>(e =>
        {
            e.HasIndex(x => x.Key).IsUnique();
            e.HasOne<CategoryRow>().WithMany().HasForeignKey(x => x.ParentId).OnDelete(DeleteBehavior.Restrict);
        });
        model.Entity<LibraryOptionRow>(e =>
        {
            e.HasIndex(x => x.Key).IsUnique();
            e.Property(x => x.Document).HasColumnType("jsonb");
            e.Property(x => x.Version).IsConcurrencyToken();
        });
        model.Entity<AddressAlias>(e =>
        {
            e.HasKey(x => x.Address);
            e.HasOne<ProductRow>().WithMany().HasForeignKey(x => x.ProductId);
        });
        model.Entity<ProductRow>(e =>
        {
            e.HasIndex(x => x.Code).IsUnique();
            e.HasIndex(x => x.Address).IsUnique();
            e.Property(x => x.Definition).HasColumnType("jsonb");
            e.Property(x => x.Version).IsConcurrencyToken();
            e.HasIndex(x => new { x.ChangedAt, x.Id });
            e.HasIndex(x => new { x.VariantCount, x.Id });
            e.HasIndex(x => new { x.LowestPrice, x.Id });
            e.HasIndex(x => new { x.LowestMargin, x.Id });
            e.HasIndex(x => new { x.Available, x.Id });
            e.HasIndex(x => new { x.Categories, x.Id });
            e.HasIndex(x => new
            {
                x.StopCount,
                x.DoubtCount,
                x.Id,
            })
                .IsDescending(true, true, false);
            e.HasIndex(x => x.Id, "ix_products_unsummed").HasFilter("summary_version <> version");
            Searched(e.Property(x => x.Words));
            e.HasIndex(x => x.Words).HasMethod("gin");
            e.HasIndex(x => x.Categories).HasMethod("gin");
        });
    }

    /// <summary>What lists show, and what they are found by.</summary>
    private static void Lists(ModelBuilder model)
    {
        model.Entity<RangeEntryRow>(e =>
        {
            e.ToTable("range_entries");
            e.HasKey(x => x.ProductId);
            e.Property(x => x.ProductId).ValueGeneratedNever();
            e.HasOne<ProductRow>().WithOne().HasForeignKey<RangeEntryRow>(x => x.ProductId).OnDelete(DeleteBehavior.Cascade);
            e.HasIndex(x => x.Address);
            e.HasIndex(x => new
            {
                x.Position,
                x.NameKey,
                x.ProductId,
            })
                .HasFilter("listed");
            e.HasIndex(x => new { x.NameKey, x.ProductId }).HasFilter("listed");
            e.HasIndex(x => x.Since).HasFilter("listed");
            e.HasIndex(x => x.Position).HasFilter("featured");
            e.HasIndex(x => x.PartProducts).HasMethod("gin");
            e.HasIndex(x => x.Categories).HasMethod("gin");
            Searched(e.Property(x => x.Words));
            e.HasIndex(x => x.Words).HasMethod("gin");
        });
        ListFigures(model);
        model.Entity<RangeOfferRow>(e =>
        {
            e.ToTable("range_offers");
            e.HasKey(x => new { x.ProductId, x.Place });
            e.HasOne<ProductRow>().WithMany().HasForeignKey(x => x.ProductId).OnDelete(DeleteBehavior.Cascade);
            e.HasIndex(x => x.Picks).HasMethod("gin");
        });
        model.Entity<RangeDueRow>(e =>
        {
            e.ToTable("range_due");
            e.Property(x => x.PricesOnly).HasDefaultValue(false);
            e.HasIndex(x => x.ProductId);
        });
        model.Entity<SearchWordRow>(e =>
        {
            e.ToTable("search_words");
            e.HasKey(x => x.Word);
        });
    }

    /// <summary>What lists say of goods: figures, and what they are reckoned from.</summary>
    private static void ListFigures(ModelBuilder model)
    {
        model.Entity<RangeFiguresRow>(e =>
        {
            e.ToTable("range_figures");
            e.HasKey(x => x.ProductId);
            e.HasOne<RangeEntryRow>()
                .WithOne(x => x.Figures)
                .HasForeignKey<RangeFiguresRow>(x => x.ProductId)
                .OnDelete(DeleteBehavior.Cascade);
            e.HasIndex(x => new
            {
                x.FromPrice,
                x.NameKey,
                x.ProductId,
            });
            e.HasIndex(x => x.ChangesAt).HasFilter("changes_at is not null");
        });
        model.Entity<RangeBasisRow>(e =>
        {
            e.ToTable("range_bases");
            e.HasKey(x => x.ProductId);
            e.Property(x => x.ProductId).ValueGeneratedNever();
            e.HasOne<RangeEntryRow>().WithMany().HasForeignKey(x => x.ProductId).OnDelete(DeleteBehavior.Cascade);
        });
    }

    /// <summary>Variants and SKUs with what changes them.</summary>
    private static void Matrix(ModelBuilder model)
    {
        model.Entity<VariantRow>(e =>
        {
            e.HasIndex(x => new { x.ProductId, x.Values }).IsUnique();
            e.HasOne<ProductRow>().WithMany().HasForeignKey(x => x.ProductId);
            e.HasOne<SkuRow>().WithMany().HasForeignKey(x => x.SkuId).OnDelete(DeleteBehavior.Restrict);
            e.Ignore(x => x.SkuCode);
            e.HasIndex(x => x.Gtin).HasFilter("gtin is not null");
            e.HasIndex(x => x.ProductId, "ix_variants_retired").HasFilter("retired");
            e.Property(x => x.Selling).HasColumnType("jsonb");
            e.Property(x => x.Former).HasColumnType("jsonb");
        });
        model.Entity<SkuRow>(e =>
        {
            e.HasIndex(x => x.CodeKey).IsUnique();
            e.HasIndex(x => x.ProductId);
        });
        model.Entity<SkuAlias>(e =>
        {
            e.HasKey(x => x.CodeKey);
            e.HasIndex(x => x.SkuId);
        });
        model.Entity<EditionRow>(e =>
        {
            e.HasKey(x => new { x.ProductId, x.Number });
            e.HasOne<ProductRow>().WithMany().HasForeignKey(x => x.ProductId);
            e.Property(x => x.Document).HasColumnType("jsonb");
        });
        model.Entity<ProductChange>(e =>
        {
            e.HasIndex(x => new { x.ProductId, x.Version });
            e.HasOne<ProductRow>().WithMany().HasForeignKey(x => x.ProductId);
        });
        model.Entity<ExtraSetRow>(e =>
        {
            e.HasIndex(x => x.Key).IsUnique();
            e.Property(x => x.Definition).HasColumnType("jsonb");
        });
        model.Entity<ExtraSetChange>(e =>
        {
            e.HasIndex(x => x.Key);
            e.Property(x => x.Before).HasColumnType("jsonb");
        });
    }

    /// <summary>Pictures, sheets, levels and movements.</summary>
    private static void Stock(ModelBuilder model)
    {
        model.Entity<PictureRow>().HasIndex(x => x.File).IsUnique();
        model.Entity<VideoRow>().HasIndex(x => x.File).IsUnique();
        model.Entity<SheetUpload>().Property(x => x.Phase).HasConversion<string>();
        model.Entity<LevelRow>(e =>
        {
            e.HasKey(x => new { x.SkuId, x.LocationId });
            e.HasIndex(x => x.ProductId);
            e.HasOne<SkuRow>().WithMany().HasForeignKey(x => x.SkuId);
            e.HasOne<LocationRow>().WithMany().HasForeignKey(x => x.LocationId);
            e.ToTable(t =>
                t.HasCheckConstraint("ck_levels_not_negative", "on_hand >= 0 and allocated >= 0 and on_hold >= 0 and on_order >= 0")
            );
        });
        model.Entity<MovementRow>(e =>
        {
            e.HasIndex(x => new { x.SkuId, x.Id });
            e.HasOne<SkuRow>().WithMany().HasForeignKey(x => x.SkuId);
            e.HasOne<LocationRow>().WithMany().HasForeignKey(x => x.LocationId);
        });
    }

    /// <summary>Prices, customers and what is told them.</summary>
    private static void Prices(ModelBuilder model)
    {
        model.Entity<PriceRuleRow>(e =>
        {
            e.HasIndex(x => x.Key).IsUnique();
            e.Property(x => x.Document).HasColumnType("jsonb");
        });
        model.Entity<PriceHistoryRow>(e =>
        {
            e.HasIndex(x => new { x.Key, x.Id });
            e.Property(x => x.Document).HasColumnType("jsonb");
        });
        model.Entity<CustomerRow>(e => e.HasIndex(x => x.EmailKey).IsUnique());
        model.Entity<CustomerGroupRow>(e =>
        {
            e.HasKey(x => x.Key);
            e.HasIndex(x => x.Code).IsUnique();
        });
        model.Entity<CouponCodeRow>(e =>
        {
            e.HasKey(x => new { x.List, x.Code });
            e.HasIndex(x => x.Code);
            e.HasIndex(x => x.OrderNumber);
        });
        model.Entity<RuleUseRow>(e =>
        {
            e.HasIndex(x => new { x.Rule, x.Buyer });
            e.HasIndex(x => x.OrderNumber);
            e.HasIndex(x => x.At);
        });
        model.Entity<KeptReply>().HasKey(x => x.Key);
        model.Entity<OutboxMessage>(e =>
        {
            e.ToTable("outbox");
            e.HasIndex(x => x.At);
            e.HasIndex(x => x.Id, "ix_outbox_waiting").HasFilter("sent_at is null");
        });
    }
}
