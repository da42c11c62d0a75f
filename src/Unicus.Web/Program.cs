using System.Globalization;
using System.Threading.RateLimiting;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.ModelBinding;
using Microsoft.Extensions.FileProviders;
using Unicus.Store;
using Unicus.Web.Api;
using Unicus.Web.Shell;

CultureInfo.DefaultThreadCurrentCulture = CultureInfo.CurrentCulture = CultureInfo.InvariantCulture;
var connection = Environment.GetEnvironmentVariable("UNICUS_DATABASE");
if (connection is null)
{
    Console.Error.WriteLine("UNICUS_DATABASE is not set: the connection string of the database. ./start sets it.");
    return 1;
}

var builder = WebApplication.CreateBuilder(args);
builder
    .Logging.SetMinimumLevel(LogLevel.Warning)
    .AddFilter("Microsoft.AspNetCore.DataProtection", LogLevel.Error)
    .AddFilter("Microsoft.AspNetCore.Antiforgery", LogLevel.Error);

// Links in messages are made of the address that was asked for, so only the shop's own are answered.
builder.Configuration["AllowedHosts"] ??= "localhost;127.0.0.1;[::1]";
builder.WebHost.ConfigureKestrel(k =>
{
    k.AddServerHeader = false;
    k.Limits.MaxRequestBodySize = Bodies.Usual;
    // A search as long as a page is read as its beginning, rather than refused without a word.
    k.Limits.MaxRequestLineSize = 32 * 1024;
});

// Scripts and styles of a place lie beside its pages; they are served like those of wwwroot.
builder.Environment.WebRootFileProvider = new CompositeFileProvider(
    new PhysicalFileProvider(Path.Combine(builder.Environment.ContentRootPath, "wwwroot")),
    new PlaceAssets(builder.Environment.ContentRootPath)
);

builder.Services.AddUnicusStore(connection).AddUnicusBackground();
if (Environment.GetEnvironmentVariable(SetTime.Variable) is { Length: > 0 } file)
    builder.Services.AddSingleton<TimeProvider>(new SetTime(file));
var isBehindProxy = builder.AddProxies();
var secure = isBehindProxy ? CookieSecurePolicy.Always : CookieSecurePolicy.SameAsRequest;
builder.Services.AddDataProtection().SetApplicationName("Unicus").PersistKeysToDbContext<UnicusContext>();
builder
    .Services.AddIdentity<IdentityUser, IdentityRole>(o =>
    {
        o.Password.RequiredLength = 12;
        o.Password.RequireNonAlphanumeric = false;
        o.Lockout.MaxFailedAccessAttempts = 8;
        o.User.RequireUniqueEmail = true;
    })
    .AddEntityFrameworkStores<UnicusContext>();
builder.Services.ConfigureApplicationCookie(o =>
{
    o.LoginPath = "/office/sign-in";
    o.Cookie.Name = "unicus-person";
    o.Cookie.HttpOnly = true;
    o.Cookie.SameSite = SameSiteMode.Lax;
    o.Cookie.SecurePolicy = secure;
    o.ExpireTimeSpan = TimeSpan.FromHours(12);
    o.Events.OnRedirectToLogin = Visit.AskToSignIn;
    o.Events.OnRedirectToAccessDenied = Visit.Refuse;
});
builder
    .Services.AddAuthentication()
    .AddCookie(
        Visit.CustomerScheme,
        o =>
        {
            o.Cookie.Name = Visit.CustomerCookie;
            o.Cookie.HttpOnly = true;
            o.Cookie.SameSite = SameSiteMode.Lax;
            o.Cookie.SecurePolicy = secure;
            o.ExpireTimeSpan = TimeSpan.FromDays(14);
        }
    );
builder
    .Services.AddAuthorizationBuilder()
    .AddPolicy("office", p => p.RequireRole("owner", "staff"))
    .AddPolicy("owner", p => p.RequireRole("owner"));
builder.Services.AddAntiforgery(o =>
{
    o.HeaderName = "X-Unicus-Token";
    o.Cookie.Name = "unicus-form";
    o.Cookie.SameSite = SameSiteMode.Lax;
    o.Cookie.SecurePolicy = secure;
});
builder
    .Services.AddRazorPages(o =>
    {
        o.RootDirectory = "/";
        o.Conventions.AddFolderApplicationModelConvention("/", OfficeDoor.Close);
        o.Conventions.AuthorizePage("/Office/Settings", "owner");
        o.Conventions.ConfigureFilter(new AutoValidateAntiforgeryTokenAttribute());
    })
    .AddMvcOptions(o =>
    {
        o.ModelBinderProviders.Insert(0, new CleanTextBinder.Provider());
        o.Filters.Add(new KnownHandlers());
        // Names are written as these pages write them; other spellings are only another way in.
        o.ValueProviderFactories.RemoveType<JQueryFormValueProviderFactory>();
        o.ValueProviderFactories.RemoveType<JQueryQueryStringValueProviderFactory>();
    });
builder.Services.Configure<Microsoft.AspNetCore.Http.Features.FormOptions>(o => o.ValueCountLimit = 20_000);

// Pieces of pages that are kept for a moment: so many characters in all.
builder.Services.AddMvc().AddCacheTagHelperLimits(o => o.SizeLimit = 24_000_000);
builder.Services.AddHttpContextAccessor();
builder.Services.AddScoped<Visit>();
builder.Services.AddSingleton<Unicus.Web.Shop.FormTokens>();
builder.Services.AddScoped<Unicus.Web.Shop.Baskets>();
builder.Services.AddScoped<Unicus.Web.Shop.BasketOffers>();
builder.Services.AddScoped<Unicus.Web.Shop.PageLock>();
builder.AddStrangerLimits();
builder.Services.AddHostedService<Sweeper>();
builder.Services.AddOpenApi("v1", o => o.AddDocumentTransformer<ApiDescription>());
builder.Services.AddHealthChecks().AddDbContextCheck<UnicusContext>();

var app = builder.Build();
try
{
    await using var scope = app.Services.CreateAsyncScope();
    await Founding.Run(scope.ServiceProvider.GetRequiredService<UnicusContext>());
}
catch (OlderShopException older)
{
    Console.Error.WriteLine(older.Message);
    return 1;
}

if (isBehindProxy)
{
    app.UseForwardedHeaders();
    app.UseHsts();
}
app.UseMiddleware<SafeHeaders>();
app.UseMiddleware<ScriptRedirects>();
app.UseStatusCodePages(ProblemReply.Write);
app.UseMiddleware<Faults>();
app.UseStaticFiles(
    new StaticFileOptions
    {
        OnPrepareResponse = c =>
            c.Context.Response.Headers.CacheControl = c.Context.Request.Query.ContainsKey("v")
                ? "public, max-age=31536000, immutable"
                : "no-cache",
    }
);
app.UseRouting();
app.UseMiddleware<BodyLimits>();
app.UseAuthentication();
app.UseRateLimiter();
app.UseMiddleware<SharedFairly>();
app.UseAuthorization();
app.MapRazorPages();
app.MapPictures();
app.MapApi();
app.MapOpenApi();
app.MapHealthChecks("/health");

await app.StartAsync();
Console.WriteLine($"Ready: {app.Urls.First()}");
await app.WaitForShutdownAsync();
return 0;

/// <summary>Named so that tests can find the application's assembly.</summary>
public partial class Program;
