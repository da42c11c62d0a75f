using Microsoft.AspNetCore.DataProtection;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging;

namespace Unicus.Store;

/// <summary>Registers the store with an application.</summary>
public static class StoreServices
{
    private static readonly Type[] UseCases =
    [
        typeof(ChangeSettings),
        typeof(ChangeProduct),
        typeof(ChangeField),
        typeof(ChangeOptions),
        typeof(ChangeParts),
        typeof(MatrixCells),
        typeof(BulkChange),
        typeof(UndoChange),
        typeof(PublishEdition),
        typeof(OptionLibrary),
        typeof(RewriteSkus),
        typeof(RangeGrid),
        typeof(CategoryTree),
        typeof(BringTogether),
        typeof(FollowNames),
        typeof(SplitOff),
        typeof(CopyProduct),
        typeof(SheetExport),
        typeof(SheetImport),
        typeof(SheetProducts),
        typeof(PutProduct),
        typeof(PutAway),
        typeof(ChangeMany),
        typeof(UnpublishedChanges),
        typeof(PictureStore),
        typeof(VideoStore),
        typeof(PicturesTogether),
        typeof(MoveStock),
        typeof(MakeUpSets),
        typeof(SetsToMakeUp),
        typeof(ChangePriceRules),
        typeof(Coupons),
        typeof(RuleTrial),
        typeof(ProveMargins),
        typeof(RuleFindings),
        typeof(ReadPricesBack),
        typeof(CustomerAccounts),
        typeof(EraseBuyers),
        typeof(EventLog),
        typeof(Sessions),
        typeof(Tries),
        typeof(SecondFactor),
        typeof(Entrance),
        typeof(ChangePeople),
        typeof(OwnAccount),
        typeof(FirstAccount),
        typeof(ApiKeys),
        typeof(BasketPricing),
        typeof(PlaceOrder),
        typeof(CheckOut),
        typeof(EndOrder),
        typeof(OrderReading),
        typeof(ShopReading),
        typeof(ProductReading),
        typeof(StockReading),
        typeof(PriceRuleReading),
        typeof(RepeatedCalls),
        typeof(BasketKeeping),
        typeof(Outbox),
        typeof(ChangeExtraSets),
        typeof(TakeOutOld),
        typeof(FindTogether),
        typeof(Suggestions),
        typeof(RangeEntries),
        typeof(RangeFigures),
        typeof(FiguresOfNow),
        typeof(RangeLists),
        typeof(OfficeLists),
    ];

    public static IServiceCollection AddUnicusStore(this IServiceCollection services, string connection)
    {
        services.AddDbContextPool<UnicusContext>(
            (s, b) =>
            {
                UnicusContext.Configure(b, connection);
                b.AddInterceptors(s.GetRequiredService<TellOnCommit>());
            }
        );
        services.AddSingleton(TimeProvider.System);
        services.AddSingleton(s => new Telling(connection, s.GetRequiredService<ILogger<Telling>>()));
        services.AddSingleton<TellOnCommit>();
        services.AddSingleton<Catalogue>();
        services.AddSingleton<PriceHistory>();
        services.AddSingleton<FacetCounts>();
        services.AddSingleton<FiguresMeanwhile>();
        services.AddSingleton<OfficeSums>();
        services.AddSingleton<RangeKeeper>();
        services.AddSingleton<SheetJobs>();
        foreach (var useCase in UseCases)
            services.AddScoped(useCase);
        return services;
    }

    /// <summary>Keeps the keys of cookies and forms in the database, so that every process has them.</summary>
    public static IDataProtectionBuilder KeepInShop(this IDataProtectionBuilder keys) => keys.PersistKeysToDbContext<UnicusContext>();

    /// <summary>Checks that the database answers.</summary>
    public static IHealthChecksBuilder AddShop(this IHealthChecksBuilder checks, IEnumerable<string> tags) =>
        checks.AddDbContextCheck<UnicusContext>(tags: tags);

    /// <summary>Lets the application hear of changes and keep its lists up to date in the background.</summary>
    public static IServiceCollection AddUnicusBackground(this IServiceCollection services) =>
        services.AddHostedService(s => s.GetRequiredService<Telling>()).AddHostedService(s => s.GetRequiredService<RangeKeeper>());
}
