using Microsoft.AspNetCore.DataProtection.EntityFrameworkCore;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Identity.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using ToughStart.Core.Identification;

namespace ToughStart.Data;

/// <summary>The database: clients, vehicles, jobs, documents and events, and the keys that cookies are protected with.</summary>
public sealed class ToughStartContext(DbContextOptions<ToughStartContext> options)
    : IdentityDbContext<StaffUser, IdentityRole<Guid>, Guid>(options),
        IDataProtectionKeyContext
{
    public DbSet<Shop> Shops => Set<Shop>();

    public DbSet<Client> Clients => Set<Client>();

    public DbSet<ClientVehicle> Vehicles => Set<ClientVehicle>();

    public DbSet<Job> Jobs => Set<Job>();

    public DbSet<SurveyDocument> Surveys => Set<SurveyDocument>();

    public DbSet<PlanDocument> Plans => Set<PlanDocument>();

    public DbSet<RunEvent> Events => Set<RunEvent>();

    public DbSet<GateMark> Marks => Set<GateMark>();

    public DbSet<MarkTry> Tries => Set<MarkTry>();

    public DbSet<BayPhone> Phones => Set<BayPhone>();

    public DbSet<Photo> Photos => Set<Photo>();

    public DbSet<Reading> Readings => Set<Reading>();

    public DbSet<ZoneNote> Notes => Set<ZoneNote>();

    public DbSet<Product> Products => Set<Product>();

    public DbSet<ProductSheet> Sheets => Set<ProductSheet>();

    public DbSet<StockMove> Moves => Set<StockMove>();

    public DbSet<StockReservation> Reservations => Set<StockReservation>();

    public DbSet<KitItem> Kit => Set<KitItem>();

    public DbSet<Calibration> Calibrations => Set<Calibration>();

    public DbSet<HousePreset> HousePresets => Set<HousePreset>();

    public DbSet<SitePreset> Sites => Set<SitePreset>();

    public DbSet<FilmTrial> FilmTrials => Set<FilmTrial>();

    public DbSet<MixRecord> Mixes => Set<MixRecord>();

    public DbSet<HandWork> HandWork => Set<HandWork>();

    public DbSet<JobBook> Books => Set<JobBook>();

    public DbSet<LoopLesson> LoopLessons => Set<LoopLesson>();

    public DbSet<PaceLesson> PaceLessons => Set<PaceLesson>();

    public DbSet<LearntFactor> LearntFactors => Set<LearntFactor>();

    public DbSet<ShareLink> Shares => Set<ShareLink>();

    public DbSet<Letter> Letters => Set<Letter>();

    public DbSet<JobQuote> Quotes => Set<JobQuote>();

    public DbSet<JobCrew> Crews => Set<JobCrew>();

    public DbSet<SavedView> Views => Set<SavedView>();

    public DbSet<DataProtectionKey> DataProtectionKeys => Set<DataProtectionKey>();

    /// <summary>Terms of the trade are kept as their words.</summary>
    protected override void ConfigureConventions(ModelConfigurationBuilder configurationBuilder)
    {
        configurationBuilder.Properties<StrengthBasis>().HaveConversion<TermText<StrengthBasis>>();
        configurationBuilder.Properties<AgentCarrier>().HaveConversion<TermText<AgentCarrier>>();
    }

    protected override void OnModelCreating(ModelBuilder builder)
    {
        base.OnModelCreating(builder);
        // Parts of names are found by it; PostgreSQL lets every owner of a database have it.
        builder.HasPostgresExtension("pg_trgm");
        builder.Entity<StaffUser>(e =>
        {
            e.ToTable("staff");
            e.HasIndex(u => u.StaffId).IsUnique();
        });
        builder.Entity<IdentityRole<Guid>>().ToTable("roles");
        builder.Entity<IdentityUserRole<Guid>>().ToTable("staff_roles");
        builder.Entity<IdentityUserClaim<Guid>>().ToTable("staff_claims");
        builder.Entity<IdentityUserLogin<Guid>>().ToTable("staff_logins");
        builder.Entity<IdentityUserToken<Guid>>().ToTable("staff_tokens");
        builder.Entity<IdentityRoleClaim<Guid>>().ToTable("role_claims");
        builder.Entity<Client>(e =>
        {
            e.HasIndex(c => c.Name);
            ByParts(e.HasIndex(c => c.Name, "ix_clients_name_parts"), "ix_clients_name_parts");
            e.Property(c => c.Version).IsRowVersion();
        });
        builder.Entity<ClientVehicle>(e =>
        {
            e.ToTable("client_vehicles");
            e.HasOne(v => v.Client).WithMany().HasForeignKey(v => v.ClientId);
            e.HasIndex(v => v.PlateKey);
            ByParts(e.HasIndex(v => v.PlateKey, "ix_client_vehicles_plate_key_parts"), "ix_client_vehicles_plate_key_parts");
            ByParts(e.HasIndex(v => v.Name, "ix_client_vehicles_name_parts"), "ix_client_vehicles_name_parts");
            e.Property(v => v.Version).IsRowVersion();
        });
        builder.Entity<Job>(e =>
        {
            e.HasOne(j => j.Vehicle).WithMany().HasForeignKey(j => j.VehicleId);
            e.HasIndex(j => j.Number).IsUnique();
            e.HasIndex(j => j.Day);
            // What is open is little, however many years of work are closed.
            e.HasIndex(j => j.Day, "ix_jobs_open_day").HasDatabaseName("ix_jobs_open_day").HasFilter("station <> 'closed'");
            e.HasIndex(j => new { j.Station, j.Day });
            ByParts(e.HasIndex(j => j.Story, "ix_jobs_story_parts"), "ix_jobs_story_parts");
            e.Property(j => j.Intake).HasColumnType("jsonb").HasDefaultValueSql("'{}'");
            e.Property(j => j.Version).IsRowVersion();
        });
        builder.Entity<Photo>(e =>
        {
            e.HasOne<Job>().WithMany().HasForeignKey(p => p.JobId);
            e.HasOne<GateMark>().WithMany().HasForeignKey(p => p.MarkId);
            e.HasIndex(p => new { p.JobId, p.Zone });
        });
        builder.Entity<Reading>(e =>
        {
            e.HasOne<Job>().WithMany().HasForeignKey(r => r.JobId);
            e.HasIndex(r => new
            {
                r.JobId,
                r.Kind,
                r.Zone,
            });
        });
        builder.Entity<ZoneNote>(e =>
        {
            e.HasOne<Job>().WithMany().HasForeignKey(r => r.JobId);
            e.HasIndex(r => new { r.JobId, r.Zone });
        });
        builder.Entity<SurveyDocument>(e =>
        {
            e.HasOne<Job>().WithMany().HasForeignKey(d => d.JobId);
            e.HasIndex(d => new { d.JobId, d.Revision }).IsUnique();
            e.Property(d => d.Body).HasColumnType("jsonb");
        });
        builder.Entity<PlanDocument>(e =>
        {
            e.HasOne<Job>().WithMany().HasForeignKey(d => d.JobId);
            e.HasIndex(d => new { d.JobId, d.Revision }).IsUnique();
            e.Property(d => d.Body).HasColumnType("jsonb");
            e.Property(d => d.Survey).HasColumnType("jsonb");
        });
        builder.Entity<Product>(e =>
        {
            e.ToTable("products", t => t.HasCheckConstraint("ck_products_stock", "stock_ml >= 0"));
            e.HasIndex(p => p.Name).IsUnique();
            e.HasIndex(p => new { p.Agent, p.Name });
            ByParts(e.HasIndex(p => p.Name, "ix_products_name_parts"), "ix_products_name_parts");
            ByParts(e.HasIndex(p => p.Agent, "ix_products_agent_parts"), "ix_products_agent_parts");
            e.HasIndex(p => p.Name, "ix_products_low").HasDatabaseName("ix_products_low").HasFilter("NOT retired AND stock_ml < least_ml");
            e.Property(p => p.Price).HasPrecision(12, 2);
            e.Property(p => p.PackMl).HasPrecision(14, 2);
            e.Property(p => p.StockMl).HasPrecision(14, 2);
            e.Property(p => p.LeastMl).HasPrecision(14, 2);
            e.Property(p => p.Version).IsRowVersion();
        });
        builder.Entity<ProductSheet>(e =>
        {
            e.HasKey(s => s.ProductId);
            e.HasOne<Product>().WithOne().HasForeignKey<ProductSheet>(s => s.ProductId);
        });
        builder.Entity<StockMove>(e =>
        {
            e.ToTable("stock_moves");
            e.HasOne<Product>().WithMany().HasForeignKey(m => m.ProductId);
            e.HasOne<Job>().WithMany().HasForeignKey(m => m.JobId);
            e.Property(m => m.Sequence).UseIdentityAlwaysColumn();
            e.HasIndex(m => new { m.ProductId, m.Sequence });
            e.Property(m => m.Ml).HasPrecision(14, 2);
            e.Property(m => m.BalanceMl).HasPrecision(14, 2);
        });
        builder.Entity<StockReservation>(e =>
        {
            e.ToTable("stock_reservations");
            e.HasKey(r => new { r.JobId, r.ProductId });
            e.HasOne<Job>().WithMany().HasForeignKey(r => r.JobId);
            e.HasOne<Product>().WithMany().HasForeignKey(r => r.ProductId);
            e.HasIndex(r => r.ProductId);
            e.Property(r => r.Ml).HasPrecision(14, 2);
        });
        builder.Entity<KitItem>(e =>
        {
            e.ToTable("kit");
            e.HasIndex(k => new { k.Kind, k.Name }).IsUnique();
            e.Property(k => k.Version).IsRowVersion();
        });
        builder.Entity<Calibration>(e =>
        {
            e.HasOne<KitItem>().WithMany().HasForeignKey(c => c.KitItemId);
            e.HasIndex(c => new { c.KitItemId, c.At });
        });
        builder.Entity<HousePreset>(e =>
        {
            e.ToTable("house_presets");
            e.HasIndex(s => s.Name).IsUnique();
            e.HasIndex(s => s.ForNewJobs, "ix_house_presets_for_new_jobs").IsUnique().HasFilter("for_new_jobs");
            e.Property(s => s.Rules).HasColumnType("jsonb");
        });
        builder.Entity<SitePreset>(e =>
        {
            e.ToTable("sites");
            e.HasIndex(s => s.Name).IsUnique();
            e.Property(s => s.Body).HasColumnType("jsonb");
        });
        builder.Entity<FilmTrial>(e =>
        {
            e.ToTable("film_trials");
            e.HasIndex(f => f.At);
        });
        builder.Entity<MixRecord>(e =>
        {
            e.ToTable("mixes");
            e.HasOne(m => m.Product).WithMany().HasForeignKey(m => m.ProductId);
            e.HasOne(m => m.Bottle).WithMany().HasForeignKey(m => m.BottleId);
            e.HasOne<Job>().WithMany().HasForeignKey(m => m.JobId);
            e.HasIndex(m => m.Number).IsUnique();
            // By time, which has no index of its own: by number PostgreSQL would walk the whole log back for a bottle that was never filled.
            e.HasIndex(m => new { m.BottleId, m.At });
            // What is open is little, however long the log.
            e.HasIndex(m => m.Number, "ix_mixes_open").HasDatabaseName("ix_mixes_open").HasFilter("state = 'in-use'");
            e.Property(m => m.ProductMl).HasPrecision(14, 2);
            e.Property(m => m.WaterMl).HasPrecision(14, 2);
            e.Property(m => m.LeftMl).HasPrecision(14, 2);
            e.Property(m => m.Version).IsRowVersion();
        });
        builder.Entity<GateMark>(e =>
        {
            e.ToTable("gate_marks");
            e.HasOne<Job>().WithMany().HasForeignKey(m => m.JobId);
            e.HasIndex(m => m.JobId);
        });
        builder.Entity<MarkTry>(e =>
        {
            e.ToTable("mark_tries");
            e.HasOne<Job>().WithMany().HasForeignKey(t => t.JobId);
            e.HasIndex(t => t.JobId);
            e.Property(t => t.Outcome).HasConversion(o => MarkTries.Id(o), id => MarkTries.Named(id)!.Value);
            e.Property(t => t.Words).HasMaxLength(MarkTry.MostWords);
        });
        BuildBooks(builder);
        builder.Entity<BayPhone>(e =>
        {
            e.ToTable("bay_phones");
            e.HasKey(p => new { p.JobId, p.Device });
            e.HasOne<Job>().WithMany().HasForeignKey(p => p.JobId);
        });
        builder.Entity<RunEvent>(e =>
        {
            e.HasOne<Job>().WithMany().HasForeignKey(d => d.JobId);
            e.HasIndex(d => new { d.JobId, d.Number }).IsUnique();
            // A phone numbers what it makes: two entries with one number come of a store that was copied or put back.
            e.HasIndex(d => new
                {
                    d.JobId,
                    d.Device,
                    d.Seq,
                })
                .IsUnique()
                .HasFilter("seq > 0");
            e.Property(d => d.Body).HasColumnType("jsonb");
        });
    }

    private static void BuildBooks(ModelBuilder builder)
    {
        builder.Entity<HandWork>(e =>
        {
            e.ToTable("hand_work");
            e.HasOne<Job>().WithMany().HasForeignKey(h => h.JobId);
            e.HasIndex(h => h.JobId);
        });
        builder.Entity<JobBook>(e =>
        {
            e.ToTable("job_books");
            e.HasKey(b => b.JobId);
            e.HasOne<Job>().WithOne().HasForeignKey<JobBook>(b => b.JobId);
            e.HasIndex(b => new { b.Day, b.JobId });
            e.HasIndex(b => new { b.VehicleId, b.Day });
            e.HasIndex(b => b.Due);
            e.HasIndex(b => new { b.Goal, b.Day });
            e.HasIndex(b => b.Day, "ix_job_books_unverified").HasDatabaseName("ix_job_books_unverified").HasFilter("unverified > 0");
            e.HasIndex(b => b.Day, "ix_job_books_dried").HasDatabaseName("ix_job_books_dried").HasFilter("dried > 0");
            ByParts(e.HasIndex(b => b.Words, "ix_job_books_words_parts"), "ix_job_books_words_parts");
            e.Property(b => b.Cost).HasPrecision(12, 2);
        });
        builder.Entity<LoopLesson>(e =>
        {
            e.HasOne<Job>().WithMany().HasForeignKey(l => l.JobId);
            e.HasIndex(l => new { l.ProductId, l.JobId });
            e.HasIndex(l => l.JobId, "ix_loop_lessons_unmoved")
                .HasDatabaseName("ix_loop_lessons_unmoved")
                .HasFilter("NOT stopped AND excluded IS NULL");
            e.HasIndex(l => l.JobId);
        });
        builder.Entity<PaceLesson>(e =>
        {
            e.HasKey(l => new
            {
                l.JobId,
                l.Who,
                l.Stage,
            });
            e.HasOne<Job>().WithMany().HasForeignKey(l => l.JobId);
            e.HasIndex(l => new { l.Who, l.Stage });
        });
        builder.Entity<LearntFactor>(e => e.HasIndex(l => new { l.Of, l.Subject }));
        builder.Entity<ShareLink>(e =>
        {
            e.ToTable("share_links");
            e.HasOne<Job>().WithMany().HasForeignKey(s => s.JobId);
            e.HasIndex(s => s.Hash).IsUnique();
            e.HasIndex(s => s.JobId);
        });
        builder.Entity<JobQuote>(e =>
        {
            e.ToTable("job_quotes");
            e.HasOne<Job>().WithMany().HasForeignKey(q => q.JobId);
            e.HasIndex(q => new { q.JobId, q.Version }).IsUnique();
            e.Property(q => q.Survey).HasColumnType("jsonb");
        });
        builder.Entity<JobCrew>(e =>
        {
            e.ToTable("job_crews");
            e.HasKey(c => c.JobId);
            e.HasOne<Job>().WithMany().HasForeignKey(c => c.JobId);
        });
        builder
            .Entity<Shop>()
            .Property(s => s.Rates)
            .HasColumnType("jsonb")
            .HasConversion(
                r => System.Text.Json.JsonSerializer.Serialize(r, (System.Text.Json.JsonSerializerOptions?)null),
                t =>
                    System.Text.Json.JsonSerializer.Deserialize<Dictionary<string, double?>>(
                        t,
                        (System.Text.Json.JsonSerializerOptions?)null
                    )!,
                new Microsoft.EntityFrameworkCore.ChangeTracking.ValueComparer<Dictionary<string, double?>>(
                    (a, b) => a!.Count == b!.Count && !a.Except(b).Any(),
                    r => r.Aggregate(0, (h, x) => h ^ x.GetHashCode()),
                    r => new Dictionary<string, double?>(r)
                )
            );
        builder.Entity<Letter>(e =>
        {
            e.HasOne<Job>().WithMany().HasForeignKey(l => l.JobId);
            e.HasIndex(l => new { l.JobId, l.At });
        });
        builder.Entity<SavedView>(e =>
        {
            e.ToTable("saved_views");
            e.HasIndex(v => v.Name).IsUnique();
        });
    }

    /// <summary>An index by which any part of a text is found.</summary>
    private static void ByParts<T>(IndexBuilder<T> index, string name) =>
        index.HasDatabaseName(name).HasMethod("gin").HasOperators("gin_trgm_ops");
}

/// <summary>How the context meets PostgreSQL; used by the application, the tests and the migration tools alike.</summary>
public static class ToughStartDatabase
{
    public static DbContextOptionsBuilder UseToughStart(this DbContextOptionsBuilder options, string connection) =>
        options.UseNpgsql(connection, o => o.MigrationsAssembly(typeof(ToughStartDatabase).Assembly)).UseSnakeCaseNamingConvention();
}

/// <summary>For the migration tools only.</summary>
public sealed class DesignTimeFactory : Microsoft.EntityFrameworkCore.Design.IDesignTimeDbContextFactory<ToughStartContext>
{
    public ToughStartContext CreateDbContext(string[] args)
    {
        var options = new DbContextOptionsBuilder<ToughStartContext>();
        options.UseToughStart("Host=127.0.0.1;Database=design");
        return new ToughStartContext(options.Options);
    }
}

/// <summary>A term of the trade in a text column.</summary>
internal sealed class TermText<T>()
    : Microsoft.EntityFrameworkCore.Storage.ValueConversion.ValueConverter<T, string>(t => t.Word, w => Term<T>.Of(w))
    where T : Term<T>;
