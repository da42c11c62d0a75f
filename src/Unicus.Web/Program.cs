using System.Globalization;
using System.Threading.RateLimiting;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.DataProtection;
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
builder.AddWatching();

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
builder.Services.AddDataProtection().SetApplicationName("Unicus").KeepInShop();
builder
    .Services.AddAuthentication(ChangePeople.Scheme)
    .AddCookie(ChangePeople.Scheme, o =>
    {
        o.LoginPath = "/office/sign-in";
        o.Cookie = OurCookie("unicus-person");
        o.ExpireTimeSpan = TimeSpan.FromHours(12);
        o.SlidingExpiration = false;
        o.Events.OnRedirectToLogin = Visit.AskToSignIn;
        o.Events.OnRedirectToAccessDenied = Visit.Refuse;
    })
    .AddCookie(CustomerAccounts.Scheme, o =>
    {
        o.Cookie = OurCookie(Visit.CustomerCookie);
        o.ExpireTimeSpan = TimeSpan.FromDays(14);
    });
foreach (var scheme in new[] { ChangePeople.Scheme, CustomerAccounts.Scheme })
    builder
        .Services.AddOptions<CookieAuthenticationOptions>(scheme)
        .Configure<IHttpContextAccessor>((o, http) => o.SessionStore = new StoredTickets(http, scheme));
builder
    .Services.AddAuthorizationBuilder()
    .AddPolicy("office", p => p.RequireRole(Roles.Owner, Roles.Staff))
    .AddPolicy("owner", p => p.RequireRole(Roles.Owner));
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
        // The baseline of measurements is no page of a shop.
        if (Environment.GetEnvironmentVariable("UNICUS_BENCH") is null)
            o.Conventions.AddPageRouteModelConvention("/Shop/Empty", page => page.Selectors.Clear());
        foreach (var page in new[] { "Settings", "Delivery", "People", "Keys", "Events" })
            o.Conventions.AuthorizePage($"/Office/{page}", Roles.Owner);
        o.Conventions.ConfigureFilter(new AutoValidateAntiforgeryTokenAttribute());
    })
    .AddMvcOptions(o =>
    {
        o.ModelBinderProviders.Insert(0, new CleanTextBinder.Provider());
        o.Filters.Add(new KnownHandlers());
        o.Filters.Add(new ShopForm.Filter());
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
builder.Services.AddScoped<Unicus.Web.Workbench.Proofs>();
builder.Services.AddScoped<Unicus.Web.Workbench.Bench>();
builder.AddStrangerLimits();
builder.Services.AddHostedService<Sweeper>();
builder.Services.AddHostedService<MailStandIn>();
builder.Services.AddSingleton<ApiDocument>();

var app = builder.Build();
try
{
    await Founding.Run(app.Services);
}
catch (ForeignShopException older)
{
    Console.Error.WriteLine(older.Message);
    return 1;
}

if (isBehindProxy)
{
    app.UseForwardedHeaders();
    app.UseMiddleware<SaidScheme>();
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
app.UseMiddleware<ReadApiKey>();
app.UseRateLimiter();
app.UseMiddleware<SharedFairly>();
app.UseAuthorization();
app.MapRazorPages();
app.MapPictures();
app.MapApi();
app.MapWatching();

await app.StartAsync();
Console.WriteLine($"Ready: {app.Urls.First()}");
await app.WaitForShutdownAsync();
return 0;

CookieBuilder OurCookie(string name) =>
    new()
    {
        Name = name,
        HttpOnly = true,
        SameSite = SameSiteMode.Lax,
        SecurePolicy = secure,
    };

/// <summary>Named so that tests can find the application's assembly.</summary>
public partial class Program;
