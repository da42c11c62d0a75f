using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

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
        typeof(MatrixCells),
        typeof(BulkChange),
        typeof(UndoChange),
        typeof(PublishEdition),
        typeof(OptionLibrary),
        typeof(RewriteSkus),
        typeof(RangeGrid),
        typeof(CategoryTree),
        typeof(BringTogether),
        typeof(SplitOff),
        typeof(CopyProduct),
        typeof(SheetExport),
        typeof(SheetImport),
        typeof(PutProduct),
        typeof(PictureStore),
        typeof(VideoStore),
        typeof(MoveStock),
        typeof(BasketPricing),
        typeof(PlaceOrder),
        typeof(CheckOut),
        typeof(EndOrder),
        typeof(ChangeExtraSets),
        typeof(TakeOutOld),
    ];

    public static IServiceCollection AddUnicusStore(this IServiceCollection services, string connection)
    {
        services.AddDbContextPool<UnicusContext>(
            (s, b) =>
            {
                UnicusContext.Configure(b, connection);
                b.AddInterceptors(new ForgetOnCommit(s.GetRequiredService<Catalogue>()));
            }
        );
        services.AddSingleton(TimeProvider.System);
        services.AddSingleton<Catalogue>();
        services.AddSingleton<SheetJobs>();
        foreach (var useCase in UseCases)
            services.AddScoped(useCase);
        return services;
    }
}
