using System;
using Microsoft.EntityFrameworkCore.Migrations;
using Npgsql.EntityFrameworkCore.PostgreSQL.Metadata;
using NpgsqlTypes;

#nullable disable

namespace Unicus.Store.Model.Migrations
{
    /// <inheritdoc />
    public partial class Founding : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql(FoundingSql.Extensions);
            migrationBuilder.CreateSequence<int>(
                name: "order_numbers",
                startValue: 1001L);

            migrationBuilder.CreateTable(
                name: "api_keys",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    name = table.Column<string>(type: "text", nullable: false),
                    start = table.Column<string>(type: "text", nullable: false),
                    hash = table.Column<string>(type: "text", nullable: false),
                    scopes = table.Column<string[]>(type: "text[]", nullable: false),
                    made_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    made_by = table.Column<string>(type: "text", nullable: false),
                    used_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    withdrawn_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_api_keys", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "baskets",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    lines = table.Column<string>(type: "jsonb", nullable: false),
                    changed_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    version = table.Column<int>(type: "integer", nullable: false),
                    destination = table.Column<string>(type: "text", nullable: true),
                    coupons = table.Column<string[]>(type: "text[]", nullable: false),
                    group_code = table.Column<string>(type: "text", nullable: true),
                    ordered_version = table.Column<int>(type: "integer", nullable: true),
                    order_token = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_baskets", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "categories",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    key = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    parent_id = table.Column<int>(type: "integer", nullable: true),
                    search = table.Column<string>(type: "text", nullable: true),
                    options = table.Column<string[]>(type: "text[]", nullable: false),
                    specifications = table.Column<string[]>(type: "text[]", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_categories", x => x.id);
                    table.ForeignKey(
                        name: "fk_categories_categories_parent_id",
                        column: x => x.parent_id,
                        principalTable: "categories",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "coupon_codes",
                columns: table => new
                {
                    list = table.Column<string>(type: "text", nullable: false),
                    code = table.Column<string>(type: "text", nullable: false),
                    order_number = table.Column<int>(type: "integer", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_coupon_codes", x => new { x.list, x.code });
                });

            migrationBuilder.CreateTable(
                name: "customer_groups",
                columns: table => new
                {
                    key = table.Column<string>(type: "text", nullable: false),
                    label = table.Column<string>(type: "text", nullable: false),
                    code = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_customer_groups", x => x.key);
                });

            migrationBuilder.CreateTable(
                name: "customers",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    email = table.Column<string>(type: "text", nullable: false),
                    email_key = table.Column<string>(type: "text", nullable: false),
                    password_hash = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    address = table.Column<string>(type: "text", nullable: false),
                    group_key = table.Column<string>(type: "text", nullable: true),
                    recovery_hash = table.Column<string>(type: "text", nullable: true),
                    recovery_until = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    created_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_customers", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "data_protection_keys",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    friendly_name = table.Column<string>(type: "text", nullable: true),
                    xml = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_data_protection_keys", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "events",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    kind = table.Column<string>(type: "text", nullable: false),
                    by = table.Column<string>(type: "text", nullable: false),
                    subject = table.Column<string>(type: "text", nullable: false),
                    text = table.Column<string>(type: "text", nullable: false),
                    address = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_events", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "extra_set_changes",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    key = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    before = table.Column<string>(type: "jsonb", nullable: false),
                    removed = table.Column<bool>(type: "boolean", nullable: false),
                    by = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_extra_set_changes", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "extra_sets",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    key = table.Column<string>(type: "text", nullable: false),
                    definition = table.Column<string>(type: "jsonb", nullable: false),
                    version = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_extra_sets", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "kept_replies",
                columns: table => new
                {
                    key = table.Column<string>(type: "text", nullable: false),
                    body_hash = table.Column<string>(type: "text", nullable: false),
                    status = table.Column<int>(type: "integer", nullable: false),
                    body = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_kept_replies", x => x.key);
                });

            migrationBuilder.CreateTable(
                name: "library_options",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    key = table.Column<string>(type: "text", nullable: false),
                    label = table.Column<string>(type: "text", nullable: false),
                    document = table.Column<string>(type: "jsonb", nullable: false),
                    version = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_library_options", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "locations",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    key = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    position = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_locations", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "orders",
                columns: table => new
                {
                    number = table.Column<int>(type: "integer", nullable: false, defaultValueSql: "nextval('order_numbers')"),
                    token = table.Column<string>(type: "text", nullable: false),
                    state = table.Column<int>(type: "integer", nullable: false),
                    placed_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    dispatched_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    cancelled_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    cancel_reason = table.Column<string>(type: "text", nullable: true),
                    buyer = table.Column<string>(type: "text", nullable: false),
                    email = table.Column<string>(type: "text", nullable: false),
                    postal_address = table.Column<string>(type: "text", nullable: false),
                    erased_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    destination = table.Column<string>(type: "text", nullable: true),
                    payment = table.Column<string>(type: "text", nullable: true),
                    currency = table.Column<string>(type: "text", nullable: false),
                    subtotal = table.Column<decimal>(type: "numeric", nullable: false),
                    delivery = table.Column<decimal>(type: "numeric", nullable: false),
                    tax = table.Column<decimal>(type: "numeric", nullable: false),
                    total = table.Column<decimal>(type: "numeric", nullable: false),
                    tax_included = table.Column<bool>(type: "boolean", nullable: false),
                    service = table.Column<string>(type: "text", nullable: true),
                    customer_id = table.Column<int>(type: "integer", nullable: true),
                    reductions = table.Column<string>(type: "jsonb", nullable: false),
                    coupons = table.Column<string>(type: "jsonb", nullable: false),
                    customer_group = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_orders", x => x.number);
                });

            migrationBuilder.CreateTable(
                name: "outbox",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    to = table.Column<string>(type: "text", nullable: false),
                    subject = table.Column<string>(type: "text", nullable: false),
                    body = table.Column<string>(type: "text", nullable: false),
                    is_private = table.Column<bool>(type: "boolean", nullable: false),
                    sent_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_outbox", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "people",
                columns: table => new
                {
                    id = table.Column<string>(type: "text", nullable: false),
                    email = table.Column<string>(type: "text", nullable: false),
                    email_key = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    password_hash = table.Column<string>(type: "text", nullable: true),
                    stamp = table.Column<string>(type: "text", nullable: false),
                    has_second_factor = table.Column<bool>(type: "boolean", nullable: false),
                    role = table.Column<string>(type: "text", nullable: false),
                    added_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    removed_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    code_secret = table.Column<string>(type: "text", nullable: true),
                    code_step = table.Column<long>(type: "bigint", nullable: false),
                    spare_codes = table.Column<string[]>(type: "text[]", nullable: false),
                    link_hash = table.Column<string>(type: "text", nullable: true),
                    link_until = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_people", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "pictures",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    file = table.Column<string>(type: "text", nullable: false),
                    content_type = table.Column<string>(type: "text", nullable: false),
                    width = table.Column<int>(type: "integer", nullable: false),
                    height = table.Column<int>(type: "integer", nullable: false),
                    large = table.Column<byte[]>(type: "bytea", nullable: false),
                    medium = table.Column<byte[]>(type: "bytea", nullable: false),
                    small = table.Column<byte[]>(type: "bytea", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_pictures", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "price_history",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    key = table.Column<string>(type: "text", nullable: false),
                    document = table.Column<string>(type: "jsonb", nullable: true),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_price_history", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "price_rules",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    key = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    document = table.Column<string>(type: "jsonb", nullable: false),
                    archived = table.Column<bool>(type: "boolean", nullable: false),
                    version = table.Column<int>(type: "integer", nullable: false),
                    changed_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    changed_by = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_price_rules", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "products",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    code = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    address = table.Column<string>(type: "text", nullable: false),
                    definition = table.Column<string>(type: "jsonb", nullable: false),
                    version = table.Column<int>(type: "integer", nullable: false),
                    changed_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    edition = table.Column<int>(type: "integer", nullable: true),
                    published_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    published_version = table.Column<int>(type: "integer", nullable: true),
                    put_away_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    put_away_by = table.Column<string>(type: "text", nullable: true),
                    away_edition = table.Column<int>(type: "integer", nullable: true),
                    weight_unit = table.Column<string>(type: "text", nullable: false),
                    length_unit = table.Column<string>(type: "text", nullable: false),
                    summary_version = table.Column<int>(type: "integer", nullable: false),
                    variant_count = table.Column<int>(type: "integer", nullable: false),
                    not_made_count = table.Column<int>(type: "integer", nullable: false),
                    lowest_price = table.Column<decimal>(type: "numeric", nullable: true),
                    highest_price = table.Column<decimal>(type: "numeric", nullable: true),
                    lowest_margin = table.Column<decimal>(type: "numeric", nullable: true),
                    highest_margin = table.Column<decimal>(type: "numeric", nullable: true),
                    stop_count = table.Column<int>(type: "integer", nullable: false),
                    doubt_count = table.Column<int>(type: "integer", nullable: false),
                    counted = table.Column<bool>(type: "boolean", nullable: false),
                    available = table.Column<long>(type: "bigint", nullable: false),
                    picture = table.Column<string>(type: "text", nullable: true),
                    categories = table.Column<string[]>(type: "text[]", nullable: false),
                    tags = table.Column<string[]>(type: "text[]", nullable: false),
                    search_text = table.Column<string>(type: "text", nullable: false),
                    words = table.Column<NpgsqlTsVector>(type: "tsvector", nullable: false, computedColumnSql: "to_tsvector('simple', search_text)", stored: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_products", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "range_due",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    product_id = table.Column<int>(type: "integer", nullable: false),
                    prices_only = table.Column<bool>(type: "boolean", nullable: false, defaultValue: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_range_due", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "rule_uses",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    order_number = table.Column<int>(type: "integer", nullable: false),
                    rule = table.Column<string>(type: "text", nullable: false),
                    buyer = table.Column<string>(type: "text", nullable: false),
                    amount = table.Column<decimal>(type: "numeric", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    list = table.Column<string>(type: "text", nullable: true),
                    code = table.Column<string>(type: "text", nullable: true),
                    given_back = table.Column<bool>(type: "boolean", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_rule_uses", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "search_words",
                columns: table => new
                {
                    word = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_search_words", x => x.word);
                });

            migrationBuilder.CreateTable(
                name: "sessions",
                columns: table => new
                {
                    id = table.Column<string>(type: "text", nullable: false),
                    scheme = table.Column<string>(type: "text", nullable: false),
                    owner = table.Column<string>(type: "text", nullable: false),
                    started_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    seen_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    ends_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    address = table.Column<string>(type: "text", nullable: false),
                    device = table.Column<string>(type: "text", nullable: false),
                    ticket = table.Column<byte[]>(type: "bytea", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_sessions", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "sheet_uploads",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    code = table.Column<string>(type: "text", nullable: true),
                    file_name = table.Column<string>(type: "text", nullable: false),
                    content = table.Column<byte[]>(type: "bytea", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    phase = table.Column<string>(type: "text", nullable: false),
                    rows_done = table.Column<int>(type: "integer", nullable: false),
                    rows_total = table.Column<int>(type: "integer", nullable: false),
                    beat = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    stop = table.Column<bool>(type: "boolean", nullable: false),
                    report = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_sheet_uploads", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "shop",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    time_zone = table.Column<string>(type: "text", nullable: false),
                    terms = table.Column<string>(type: "jsonb", nullable: false),
                    offers_demo_account = table.Column<bool>(type: "boolean", nullable: false),
                    video_hosts = table.Column<string[]>(type: "text[]", nullable: false),
                    first_code_hash = table.Column<string>(type: "text", nullable: true),
                    locale = table.Column<string>(type: "text", nullable: false),
                    buyers_kept_months = table.Column<int>(type: "integer", nullable: true),
                    version = table.Column<int>(type: "integer", nullable: false),
                    founded_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_shop", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "sku_aliases",
                columns: table => new
                {
                    code_key = table.Column<string>(type: "text", nullable: false),
                    code = table.Column<string>(type: "text", nullable: false),
                    sku_id = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_sku_aliases", x => x.code_key);
                });

            migrationBuilder.CreateTable(
                name: "skus",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    code = table.Column<string>(type: "text", nullable: false),
                    code_key = table.Column<string>(type: "text", nullable: false),
                    product_id = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_skus", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "videos",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    file = table.Column<string>(type: "text", nullable: false),
                    content_type = table.Column<string>(type: "text", nullable: false),
                    content = table.Column<byte[]>(type: "bytea", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_videos", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "address_aliases",
                columns: table => new
                {
                    address = table.Column<string>(type: "text", nullable: false),
                    product_id = table.Column<int>(type: "integer", nullable: false),
                    values = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_address_aliases", x => x.address);
                    table.ForeignKey(
                        name: "fk_address_aliases_products_product_id",
                        column: x => x.product_id,
                        principalTable: "products",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "bought_together",
                columns: table => new
                {
                    product_id = table.Column<int>(type: "integer", nullable: false),
                    other_id = table.Column<int>(type: "integer", nullable: false),
                    orders = table.Column<int>(type: "integer", nullable: false),
                    lift = table.Column<double>(type: "double precision", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_bought_together", x => new { x.product_id, x.other_id });
                    table.ForeignKey(
                        name: "fk_bought_together_products_other_id",
                        column: x => x.other_id,
                        principalTable: "products",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_bought_together_products_product_id",
                        column: x => x.product_id,
                        principalTable: "products",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "editions",
                columns: table => new
                {
                    product_id = table.Column<int>(type: "integer", nullable: false),
                    number = table.Column<int>(type: "integer", nullable: false),
                    document = table.Column<string>(type: "jsonb", nullable: false),
                    published_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    published_by = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_editions", x => new { x.product_id, x.number });
                    table.ForeignKey(
                        name: "fk_editions_products_product_id",
                        column: x => x.product_id,
                        principalTable: "products",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "product_changes",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    product_id = table.Column<int>(type: "integer", nullable: false),
                    version = table.Column<int>(type: "integer", nullable: false),
                    sentence = table.Column<string>(type: "text", nullable: false),
                    by = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    before = table.Column<string>(type: "text", nullable: true),
                    after = table.Column<string>(type: "text", nullable: true),
                    undone = table.Column<bool>(type: "boolean", nullable: false),
                    at_once = table.Column<bool>(type: "boolean", nullable: false),
                    typing = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_product_changes", x => x.id);
                    table.ForeignKey(
                        name: "fk_product_changes_products_product_id",
                        column: x => x.product_id,
                        principalTable: "products",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "range_entries",
                columns: table => new
                {
                    product_id = table.Column<int>(type: "integer", nullable: false),
                    code = table.Column<string>(type: "text", nullable: false),
                    address = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    name_key = table.Column<string>(type: "text", nullable: false),
                    summary = table.Column<string>(type: "text", nullable: true),
                    picture = table.Column<string>(type: "text", nullable: true),
                    position = table.Column<int>(type: "integer", nullable: false),
                    listed = table.Column<bool>(type: "boolean", nullable: false),
                    searchable = table.Column<bool>(type: "boolean", nullable: false),
                    since = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    categories = table.Column<int[]>(type: "integer[]", nullable: false),
                    part_products = table.Column<int[]>(type: "integer[]", nullable: false),
                    named = table.Column<string[]>(type: "text[]", nullable: false),
                    description = table.Column<string>(type: "text", nullable: false),
                    search_text = table.Column<string>(type: "text", nullable: false),
                    words = table.Column<NpgsqlTsVector>(type: "tsvector", nullable: false, computedColumnSql: "to_tsvector('simple', search_text)", stored: true),
                    own_badge = table.Column<string>(type: "text", nullable: false),
                    featured = table.Column<bool>(type: "boolean", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_range_entries", x => x.product_id);
                    table.ForeignKey(
                        name: "fk_range_entries_products_product_id",
                        column: x => x.product_id,
                        principalTable: "products",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "range_offers",
                columns: table => new
                {
                    product_id = table.Column<int>(type: "integer", nullable: false),
                    place = table.Column<int>(type: "integer", nullable: false),
                    picks = table.Column<string[]>(type: "text[]", nullable: false),
                    buyable = table.Column<bool>(type: "boolean", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_range_offers", x => new { x.product_id, x.place });
                    table.ForeignKey(
                        name: "fk_range_offers_products_product_id",
                        column: x => x.product_id,
                        principalTable: "products",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "levels",
                columns: table => new
                {
                    sku_id = table.Column<int>(type: "integer", nullable: false),
                    location_id = table.Column<int>(type: "integer", nullable: false),
                    product_id = table.Column<int>(type: "integer", nullable: false),
                    on_hand = table.Column<int>(type: "integer", nullable: false),
                    allocated = table.Column<int>(type: "integer", nullable: false),
                    on_hold = table.Column<int>(type: "integer", nullable: false),
                    on_order = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_levels", x => new { x.sku_id, x.location_id });
                    table.CheckConstraint("ck_levels_not_negative", "on_hand >= 0 and allocated >= 0 and on_hold >= 0 and on_order >= 0");
                    table.ForeignKey(
                        name: "fk_levels_locations_location_id",
                        column: x => x.location_id,
                        principalTable: "locations",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_levels_skus_sku_id",
                        column: x => x.sku_id,
                        principalTable: "skus",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "movements",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    sku_id = table.Column<int>(type: "integer", nullable: false),
                    location_id = table.Column<int>(type: "integer", nullable: false),
                    kind = table.Column<int>(type: "integer", nullable: false),
                    on_hand = table.Column<int>(type: "integer", nullable: false),
                    allocated = table.Column<int>(type: "integer", nullable: false),
                    on_hold = table.Column<int>(type: "integer", nullable: false),
                    on_order = table.Column<int>(type: "integer", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    by = table.Column<string>(type: "text", nullable: false),
                    reason = table.Column<string>(type: "text", nullable: true),
                    order_number = table.Column<int>(type: "integer", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_movements", x => x.id);
                    table.ForeignKey(
                        name: "fk_movements_locations_location_id",
                        column: x => x.location_id,
                        principalTable: "locations",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_movements_skus_sku_id",
                        column: x => x.sku_id,
                        principalTable: "skus",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "order_lines",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    order_number = table.Column<int>(type: "integer", nullable: false),
                    position = table.Column<int>(type: "integer", nullable: false),
                    product_id = table.Column<int>(type: "integer", nullable: false),
                    product_code = table.Column<string>(type: "text", nullable: false),
                    edition = table.Column<int>(type: "integer", nullable: false),
                    sku_id = table.Column<int>(type: "integer", nullable: false),
                    sku = table.Column<string>(type: "text", nullable: false),
                    title = table.Column<string>(type: "text", nullable: false),
                    configuration = table.Column<string>(type: "jsonb", nullable: false),
                    asked = table.Column<string>(type: "text", nullable: true),
                    asked_parts = table.Column<string>(type: "text", nullable: true),
                    working = table.Column<string>(type: "jsonb", nullable: false),
                    quantity = table.Column<int>(type: "integer", nullable: false),
                    unit = table.Column<decimal>(type: "numeric", nullable: false),
                    total = table.Column<decimal>(type: "numeric", nullable: false),
                    reduction = table.Column<decimal>(type: "numeric", nullable: false),
                    tax = table.Column<decimal>(type: "numeric", nullable: false),
                    cost = table.Column<decimal>(type: "numeric", nullable: true),
                    through = table.Column<string>(type: "text", nullable: false),
                    note = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_order_lines", x => x.id);
                    table.ForeignKey(
                        name: "fk_order_lines_orders_order_number",
                        column: x => x.order_number,
                        principalTable: "orders",
                        principalColumn: "number",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_order_lines_products_product_id",
                        column: x => x.product_id,
                        principalTable: "products",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_order_lines_skus_sku_id",
                        column: x => x.sku_id,
                        principalTable: "skus",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "variants",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    product_id = table.Column<int>(type: "integer", nullable: false),
                    values = table.Column<string>(type: "text", nullable: false),
                    sku_id = table.Column<int>(type: "integer", nullable: false),
                    gtin = table.Column<string>(type: "text", nullable: true),
                    price = table.Column<decimal>(type: "numeric", nullable: true),
                    rrp = table.Column<decimal>(type: "numeric", nullable: true),
                    cost = table.Column<decimal>(type: "numeric", nullable: true),
                    weight_grams = table.Column<int>(type: "integer", nullable: true),
                    length_mm = table.Column<int>(type: "integer", nullable: true),
                    width_mm = table.Column<int>(type: "integer", nullable: true),
                    height_mm = table.Column<int>(type: "integer", nullable: true),
                    tax_class = table.Column<string>(type: "text", nullable: true),
                    lead_time_days = table.Column<int>(type: "integer", nullable: true),
                    low_level = table.Column<int>(type: "integer", nullable: true),
                    net_quantity = table.Column<decimal>(type: "numeric", nullable: true),
                    net_unit = table.Column<string>(type: "text", nullable: true),
                    customs_code = table.Column<string>(type: "text", nullable: true),
                    origin = table.Column<string>(type: "text", nullable: true),
                    selling = table.Column<string>(type: "jsonb", nullable: true),
                    retired = table.Column<bool>(type: "boolean", nullable: false),
                    note = table.Column<string>(type: "text", nullable: true),
                    picture = table.Column<string>(type: "text", nullable: true),
                    former = table.Column<string>(type: "jsonb", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_variants", x => x.id);
                    table.ForeignKey(
                        name: "fk_variants_products_product_id",
                        column: x => x.product_id,
                        principalTable: "products",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_variants_skus_sku_id",
                        column: x => x.sku_id,
                        principalTable: "skus",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "range_bases",
                columns: table => new
                {
                    product_id = table.Column<int>(type: "integer", nullable: false),
                    content = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_range_bases", x => x.product_id);
                    table.ForeignKey(
                        name: "fk_range_bases_range_entries_product_id",
                        column: x => x.product_id,
                        principalTable: "range_entries",
                        principalColumn: "product_id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "range_figures",
                columns: table => new
                {
                    product_id = table.Column<int>(type: "integer", nullable: false),
                    name_key = table.Column<string>(type: "text", nullable: false),
                    from_price = table.Column<decimal>(type: "numeric", nullable: true),
                    varies = table.Column<bool>(type: "boolean", nullable: false),
                    once = table.Column<decimal>(type: "numeric", nullable: true),
                    badge = table.Column<string>(type: "text", nullable: false),
                    none_words = table.Column<string>(type: "text", nullable: false),
                    changes_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_range_figures", x => x.product_id);
                    table.ForeignKey(
                        name: "fk_range_figures_range_entries_product_id",
                        column: x => x.product_id,
                        principalTable: "range_entries",
                        principalColumn: "product_id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "order_leaves",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    order_line_id = table.Column<int>(type: "integer", nullable: false),
                    position = table.Column<int>(type: "integer", nullable: false),
                    path = table.Column<string>(type: "text", nullable: false),
                    product_id = table.Column<int>(type: "integer", nullable: false),
                    sku_id = table.Column<int>(type: "integer", nullable: false),
                    sku = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    units = table.Column<int>(type: "integer", nullable: false),
                    allocated = table.Column<decimal>(type: "numeric", nullable: false),
                    cost = table.Column<decimal>(type: "numeric", nullable: true),
                    tax_class = table.Column<string>(type: "text", nullable: true),
                    customs_code = table.Column<string>(type: "text", nullable: true),
                    origin = table.Column<string>(type: "text", nullable: true),
                    weight_grams = table.Column<int>(type: "integer", nullable: true),
                    shipped = table.Column<bool>(type: "boolean", nullable: false),
                    beyond = table.Column<int>(type: "integer", nullable: false),
                    made_up = table.Column<bool>(type: "boolean", nullable: false),
                    tax = table.Column<decimal>(type: "numeric", nullable: false),
                    sent = table.Column<int>(type: "integer", nullable: false),
                    dropped = table.Column<int>(type: "integer", nullable: false),
                    refunded = table.Column<decimal>(type: "numeric", nullable: false),
                    locations = table.Column<int[]>(type: "integer[]", nullable: false),
                    units_at = table.Column<int[]>(type: "integer[]", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_order_leaves", x => x.id);
                    table.ForeignKey(
                        name: "fk_order_leaves_order_lines_order_line_id",
                        column: x => x.order_line_id,
                        principalTable: "order_lines",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_order_leaves_products_product_id",
                        column: x => x.product_id,
                        principalTable: "products",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_order_leaves_skus_sku_id",
                        column: x => x.sku_id,
                        principalTable: "skus",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateIndex(
                name: "ix_address_aliases_product_id",
                table: "address_aliases",
                column: "product_id");

            migrationBuilder.CreateIndex(
                name: "ix_api_keys_hash",
                table: "api_keys",
                column: "hash",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_baskets_changed_at",
                table: "baskets",
                column: "changed_at");

            migrationBuilder.CreateIndex(
                name: "ix_bought_together_other_id",
                table: "bought_together",
                column: "other_id");

            migrationBuilder.CreateIndex(
                name: "ix_categories_key",
                table: "categories",
                column: "key",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_categories_parent_id",
                table: "categories",
                column: "parent_id");

            migrationBuilder.CreateIndex(
                name: "ix_coupon_codes_code",
                table: "coupon_codes",
                column: "code");

            migrationBuilder.CreateIndex(
                name: "ix_coupon_codes_order_number",
                table: "coupon_codes",
                column: "order_number");

            migrationBuilder.CreateIndex(
                name: "ix_customer_groups_code",
                table: "customer_groups",
                column: "code",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_customers_email_key",
                table: "customers",
                column: "email_key",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_events_at",
                table: "events",
                column: "at");

            migrationBuilder.CreateIndex(
                name: "ix_events_subject_at",
                table: "events",
                columns: new[] { "subject", "at" });

            migrationBuilder.CreateIndex(
                name: "ix_extra_set_changes_key",
                table: "extra_set_changes",
                column: "key");

            migrationBuilder.CreateIndex(
                name: "ix_extra_sets_key",
                table: "extra_sets",
                column: "key",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_levels_location_id",
                table: "levels",
                column: "location_id");

            migrationBuilder.CreateIndex(
                name: "ix_levels_product_id",
                table: "levels",
                column: "product_id");

            migrationBuilder.CreateIndex(
                name: "ix_library_options_key",
                table: "library_options",
                column: "key",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_locations_key",
                table: "locations",
                column: "key",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_movements_location_id",
                table: "movements",
                column: "location_id");

            migrationBuilder.CreateIndex(
                name: "ix_movements_sku_id_id",
                table: "movements",
                columns: new[] { "sku_id", "id" });

            migrationBuilder.CreateIndex(
                name: "ix_order_leaves_order_line_id",
                table: "order_leaves",
                column: "order_line_id");

            migrationBuilder.CreateIndex(
                name: "ix_order_leaves_product_id",
                table: "order_leaves",
                column: "product_id");

            migrationBuilder.CreateIndex(
                name: "ix_order_leaves_sku_id",
                table: "order_leaves",
                column: "sku_id");

            migrationBuilder.CreateIndex(
                name: "ix_order_lines_order_number",
                table: "order_lines",
                column: "order_number");

            migrationBuilder.CreateIndex(
                name: "ix_order_lines_product_id",
                table: "order_lines",
                column: "product_id");

            migrationBuilder.CreateIndex(
                name: "ix_order_lines_sku_id",
                table: "order_lines",
                column: "sku_id");

            migrationBuilder.CreateIndex(
                name: "ix_orders_placed_at",
                table: "orders",
                column: "placed_at");

            migrationBuilder.CreateIndex(
                name: "ix_orders_state_placed_at",
                table: "orders",
                columns: new[] { "state", "placed_at" });

            migrationBuilder.CreateIndex(
                name: "ix_orders_token",
                table: "orders",
                column: "token",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_outbox_at",
                table: "outbox",
                column: "at");

            migrationBuilder.CreateIndex(
                name: "ix_outbox_id",
                table: "outbox",
                column: "id",
                filter: "sent_at is null");

            migrationBuilder.CreateIndex(
                name: "ix_people_email_key",
                table: "people",
                column: "email_key",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_people_link_hash",
                table: "people",
                column: "link_hash",
                filter: "link_hash is not null");

            migrationBuilder.CreateIndex(
                name: "ix_pictures_file",
                table: "pictures",
                column: "file",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_price_history_key_id",
                table: "price_history",
                columns: new[] { "key", "id" });

            migrationBuilder.CreateIndex(
                name: "ix_price_rules_key",
                table: "price_rules",
                column: "key",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_product_changes_product_id_version",
                table: "product_changes",
                columns: new[] { "product_id", "version" });

            migrationBuilder.CreateIndex(
                name: "ix_products_address",
                table: "products",
                column: "address",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_products_available_id",
                table: "products",
                columns: new[] { "available", "id" });

            migrationBuilder.CreateIndex(
                name: "ix_products_categories",
                table: "products",
                column: "categories")
                .Annotation("Npgsql:IndexMethod", "gin");

            migrationBuilder.CreateIndex(
                name: "ix_products_categories_id",
                table: "products",
                columns: new[] { "categories", "id" });

            migrationBuilder.CreateIndex(
                name: "ix_products_changed_at_id",
                table: "products",
                columns: new[] { "changed_at", "id" });

            migrationBuilder.CreateIndex(
                name: "ix_products_code",
                table: "products",
                column: "code",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_products_id",
                table: "products",
                column: "id",
                filter: "summary_version <> version");

            migrationBuilder.CreateIndex(
                name: "ix_products_lowest_margin_id",
                table: "products",
                columns: new[] { "lowest_margin", "id" });

            migrationBuilder.CreateIndex(
                name: "ix_products_lowest_price_id",
                table: "products",
                columns: new[] { "lowest_price", "id" });

            migrationBuilder.CreateIndex(
                name: "ix_products_stop_count_doubt_count_id",
                table: "products",
                columns: new[] { "stop_count", "doubt_count", "id" },
                descending: new[] { true, true, false });

            migrationBuilder.CreateIndex(
                name: "ix_products_variant_count_id",
                table: "products",
                columns: new[] { "variant_count", "id" });

            migrationBuilder.CreateIndex(
                name: "ix_products_words",
                table: "products",
                column: "words")
                .Annotation("Npgsql:IndexMethod", "gin");

            migrationBuilder.CreateIndex(
                name: "ix_range_due_product_id",
                table: "range_due",
                column: "product_id");

            migrationBuilder.CreateIndex(
                name: "ix_range_entries_address",
                table: "range_entries",
                column: "address");

            migrationBuilder.CreateIndex(
                name: "ix_range_entries_categories",
                table: "range_entries",
                column: "categories")
                .Annotation("Npgsql:IndexMethod", "gin");

            migrationBuilder.CreateIndex(
                name: "ix_range_entries_name_key_product_id",
                table: "range_entries",
                columns: new[] { "name_key", "product_id" },
                filter: "listed");

            migrationBuilder.CreateIndex(
                name: "ix_range_entries_part_products",
                table: "range_entries",
                column: "part_products")
                .Annotation("Npgsql:IndexMethod", "gin");

            migrationBuilder.CreateIndex(
                name: "ix_range_entries_position",
                table: "range_entries",
                column: "position",
                filter: "featured");

            migrationBuilder.CreateIndex(
                name: "ix_range_entries_position_name_key_product_id",
                table: "range_entries",
                columns: new[] { "position", "name_key", "product_id" },
                filter: "listed");

            migrationBuilder.CreateIndex(
                name: "ix_range_entries_since",
                table: "range_entries",
                column: "since",
                filter: "listed");

            migrationBuilder.CreateIndex(
                name: "ix_range_entries_words",
                table: "range_entries",
                column: "words")
                .Annotation("Npgsql:IndexMethod", "gin");

            migrationBuilder.CreateIndex(
                name: "ix_range_figures_changes_at",
                table: "range_figures",
                column: "changes_at",
                filter: "changes_at is not null");

            migrationBuilder.CreateIndex(
                name: "ix_range_figures_from_price_name_key_product_id",
                table: "range_figures",
                columns: new[] { "from_price", "name_key", "product_id" });

            migrationBuilder.CreateIndex(
                name: "ix_range_offers_picks",
                table: "range_offers",
                column: "picks")
                .Annotation("Npgsql:IndexMethod", "gin");

            migrationBuilder.CreateIndex(
                name: "ix_rule_uses_at",
                table: "rule_uses",
                column: "at");

            migrationBuilder.CreateIndex(
                name: "ix_rule_uses_order_number",
                table: "rule_uses",
                column: "order_number");

            migrationBuilder.CreateIndex(
                name: "ix_rule_uses_rule_buyer",
                table: "rule_uses",
                columns: new[] { "rule", "buyer" });

            migrationBuilder.CreateIndex(
                name: "ix_sessions_ends_at",
                table: "sessions",
                column: "ends_at");

            migrationBuilder.CreateIndex(
                name: "ix_sessions_scheme_owner",
                table: "sessions",
                columns: new[] { "scheme", "owner" });

            migrationBuilder.CreateIndex(
                name: "ix_sku_aliases_sku_id",
                table: "sku_aliases",
                column: "sku_id");

            migrationBuilder.CreateIndex(
                name: "ix_skus_code_key",
                table: "skus",
                column: "code_key",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_skus_product_id",
                table: "skus",
                column: "product_id");

            migrationBuilder.CreateIndex(
                name: "ix_variants_gtin",
                table: "variants",
                column: "gtin",
                filter: "gtin is not null");

            migrationBuilder.CreateIndex(
                name: "ix_variants_product_id",
                table: "variants",
                column: "product_id",
                filter: "retired");

            migrationBuilder.CreateIndex(
                name: "ix_variants_product_id_values",
                table: "variants",
                columns: new[] { "product_id", "values" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_variants_sku_id",
                table: "variants",
                column: "sku_id");

            migrationBuilder.CreateIndex(
                name: "ix_videos_file",
                table: "videos",
                column: "file",
                unique: true);
            migrationBuilder.Sql(FoundingSql.Indexes);
            migrationBuilder.Sql(FoundingSql.Triggers);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "address_aliases");

            migrationBuilder.DropTable(
                name: "api_keys");

            migrationBuilder.DropTable(
                name: "baskets");

            migrationBuilder.DropTable(
                name: "bought_together");

            migrationBuilder.DropTable(
                name: "categories");

            migrationBuilder.DropTable(
                name: "coupon_codes");

            migrationBuilder.DropTable(
                name: "customer_groups");

            migrationBuilder.DropTable(
                name: "customers");

            migrationBuilder.DropTable(
                name: "data_protection_keys");

            migrationBuilder.DropTable(
                name: "editions");

            migrationBuilder.DropTable(
                name: "events");

            migrationBuilder.DropTable(
                name: "extra_set_changes");

            migrationBuilder.DropTable(
                name: "extra_sets");

            migrationBuilder.DropTable(
                name: "kept_replies");

            migrationBuilder.DropTable(
                name: "levels");

            migrationBuilder.DropTable(
                name: "library_options");

            migrationBuilder.DropTable(
                name: "movements");

            migrationBuilder.DropTable(
                name: "order_leaves");

            migrationBuilder.DropTable(
                name: "outbox");

            migrationBuilder.DropTable(
                name: "people");

            migrationBuilder.DropTable(
                name: "pictures");

            migrationBuilder.DropTable(
                name: "price_history");

            migrationBuilder.DropTable(
                name: "price_rules");

            migrationBuilder.DropTable(
                name: "product_changes");

            migrationBuilder.DropTable(
                name: "range_bases");

            migrationBuilder.DropTable(
                name: "range_due");

            migrationBuilder.DropTable(
                name: "range_figures");

            migrationBuilder.DropTable(
                name: "range_offers");

            migrationBuilder.DropTable(
                name: "rule_uses");

            migrationBuilder.DropTable(
                name: "search_words");

            migrationBuilder.DropTable(
                name: "sessions");

            migrationBuilder.DropTable(
                name: "sheet_uploads");

            migrationBuilder.DropTable(
                name: "shop");

            migrationBuilder.DropTable(
                name: "sku_aliases");

            migrationBuilder.DropTable(
                name: "variants");

            migrationBuilder.DropTable(
                name: "videos");

            migrationBuilder.DropTable(
                name: "locations");

            migrationBuilder.DropTable(
                name: "order_lines");

            migrationBuilder.DropTable(
                name: "range_entries");

            migrationBuilder.DropTable(
                name: "orders");

            migrationBuilder.DropTable(
                name: "skus");

            migrationBuilder.DropTable(
                name: "products");

            migrationBuilder.DropSequence(
                name: "order_numbers");
        }
    }
}
