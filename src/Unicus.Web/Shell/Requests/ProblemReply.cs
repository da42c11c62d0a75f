using System.Net;
using System.Text;
using Microsoft.AspNetCore.Diagnostics;
using Unicus.Web.Api;

namespace Unicus.Web.Shell;

/// <summary>
/// The body of every reply that says no: a page in the shop's look for people, one sentence for a part of a page, a problem document for
/// programs. It asks nothing of the database, which may be what is wrong.
/// </summary>
public static class ProblemReply
{
    private const string Said = "unicus-problem";

    /// <summary>Says something more fitting than the status alone.</summary>
    public static void Say(HttpContext context, string sentence) => context.Items[Said] = sentence;

    /// <summary>Writes the body of a reply that has a status of 400 or more and none yet.</summary>
    public static async Task Write(StatusCodeContext of)
    {
        var context = of.HttpContext;
        var status = context.Response.StatusCode;
        var sentence = context.Items[Said] as string ?? Title(status);
        SafeHeaders.Put(context);
        if (context.Request.Path.StartsWithSegments("/api"))
            await Problems.Of(status, sentence).ExecuteAsync(context);
        else if (IsPartial(context.Request))
            await Text(context, sentence, "text/plain");
        else
            await Text(context, Page(context, status, sentence), "text/html");
    }

    /// <summary>Whether a script asked, for a part of a page or to send a form; it says by itself what is wrong.</summary>
    public static bool IsPartial(HttpRequest request) => request.Headers.ContainsKey("HX-Request") || IsByScript(request);

    /// <summary>Whether a script sent a form that leads to another page.</summary>
    public static bool IsByScript(HttpRequest request) => request.Headers.ContainsKey("X-Unicus-Script");

    private static Task Text(HttpContext context, string text, string type)
    {
        context.Response.ContentType = $"{type}; charset=utf-8";
        context.Response.Headers.CacheControl = "no-store";
        return HttpMethods.IsHead(context.Request.Method) ? Task.CompletedTask : context.Response.WriteAsync(text, Encoding.UTF8);
    }

    private static string Title(int status) =>
        status switch
        {
            400 => "That request could not be understood.",
            401 => "You are signed out. Nothing was saved yet.",
            403 => "Your account may not do that.",
            404 => "There is nothing here.",
            405 => "That cannot be done here.",
            408 => "The request took too long. Nothing was saved.",
            409 => "Somebody else changed the same thing at the same moment. Nothing was saved; try once more.",
            413 or 431 => "That is too much at once. Nothing was saved.",
            415 => "That kind of content is not understood here.",
            429 => "Too many requests came from your address. Wait a minute.",
            503 => "The shop cannot reach its data just now. Nothing was saved.",
            < 500 => "That cannot be done.",
            _ => "Something went wrong on our side. Nothing was saved.",
        };

    private static string WhatNext(int status) =>
        status switch
        {
            404 => "The page may have moved, or the address has a slip.",
            400 => "The page may have been open for long, or the address has a slip. Open it anew.",
            429 or 503 => "Try again in a moment.",
            >= 500 => "If it happens again, tell us what you were doing.",
            _ => "",
        };

    /// <summary>Ways on: people of the shop back to their work, shoppers to what they may have looked for.</summary>
    private static string Onwards(HttpContext context) =>
        context.Request.Path.StartsWithSegments("/office")
            ? """<p><a href="/office/range">To the range</a> · <a href="/">To the shop</a></p>"""
            : """
                <form class="where" action="/" role="search">
                  <input name="q" type="search" size="30" placeholder="What were you looking for?" aria-label="Find goods" autofocus>
                  <button class="btn">Find</button></form>
                <p><a href="/">See everything there is</a> · <a href="/basket">Your basket</a></p>
                """;

    private static string Page(HttpContext context, int status, string sentence)
    {
        var shop = WebUtility.HtmlEncode(context.RequestServices.GetRequiredService<Store.ShopReading>().LastShopName ?? "The shop");
        var said = WebUtility.HtmlEncode(sentence);
        return $"""
            <!doctype html>
            <html lang="en">
            <head>
              <meta charset="utf-8">
              <meta name="viewport" content="width=device-width, initial-scale=1">
              <title>{said} · {shop}</title>
              <link rel="icon" href="/mark.svg" type="image/svg+xml">
              <link rel="stylesheet" href="/lib/bootstrap.min.css">
              <link rel="stylesheet" href="/css/tokens.css">
              <link rel="stylesheet" href="/css/shell.css">
              <link rel="stylesheet" href="/css/shop.css">
            </head>
            <body class="shop">
              <header class="shop-head"><a class="shop-name" href="/">{shop}</a></header>
              <main class="shop-page narrow">
                <h1>{said}</h1>
                <p class="soft">{WhatNext(status)}</p>
                {Onwards(context)}
              </main>
            </body>
            </html>
            """;
    }
}
