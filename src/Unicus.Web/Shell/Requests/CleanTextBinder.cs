using Microsoft.AspNetCore.Mvc.ModelBinding;
using Microsoft.AspNetCore.Mvc.ModelBinding.Binders;

namespace Unicus.Web.Shell;

/// <summary>Binds texts of forms and addresses without the signs that cannot be kept; the one place where typed text enters a
/// page.</summary>
public sealed class CleanTextBinder(IModelBinder inner) : IModelBinder
{
    public async Task BindModelAsync(ModelBindingContext bindingContext)
    {
        await inner.BindModelAsync(bindingContext);
        if (bindingContext.Result is { IsModelSet: true, Model: string text })
            bindingContext.Result = ModelBindingResult.Success(TypedText.Clean(text));
    }

    /// <summary>Gives it to whatever is bound to a text.</summary>
    public sealed class Provider : IModelBinderProvider
    {
        public IModelBinder? GetBinder(ModelBinderProviderContext context) =>
            context.Metadata.ModelType == typeof(string) && context.BindingInfo.BindingSource != BindingSource.Services
                ? new CleanTextBinder(new SimpleTypeModelBinder(typeof(string), context.Services.GetRequiredService<ILoggerFactory>()))
                : null;
    }
}
