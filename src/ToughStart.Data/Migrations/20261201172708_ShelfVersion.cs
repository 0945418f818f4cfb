using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace ToughStart.Data.Migrations
{
    /// <inheritdoc />
    public partial class ShelfVersion : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            // Counted when a transaction ends, once for each, so that two who change the shelf wait for each other no longer than that.
            migrationBuilder.Sql("""
                CREATE TABLE shelf_version (one boolean PRIMARY KEY DEFAULT true CHECK (one), n bigint NOT NULL);
                INSERT INTO shelf_version (n) VALUES (1);
                CREATE FUNCTION shelf_changed() RETURNS trigger LANGUAGE plpgsql AS $$
                BEGIN
                    IF current_setting('toughstart.shelf', true) IS DISTINCT FROM pg_current_xact_id()::text THEN
                        UPDATE shelf_version SET n = n + 1;
                        PERFORM set_config('toughstart.shelf', pg_current_xact_id()::text, true);
                    END IF;
                    RETURN NULL;
                END $$;
                CREATE CONSTRAINT TRIGGER shelf_changed AFTER INSERT OR DELETE ON products DEFERRABLE INITIALLY DEFERRED
                FOR EACH ROW EXECUTE FUNCTION shelf_changed();
                CREATE CONSTRAINT TRIGGER shelf_relabelled AFTER UPDATE ON products DEFERRABLE INITIALLY DEFERRED
                FOR EACH ROW WHEN (
                    (OLD.stock_ml > 0) IS DISTINCT FROM (NEW.stock_ml > 0)
                    OR (to_jsonb(OLD) - 'stock_ml') IS DISTINCT FROM (to_jsonb(NEW) - 'stock_ml')
                ) EXECUTE FUNCTION shelf_changed();
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("""
                DROP TRIGGER shelf_relabelled ON products;
                DROP TRIGGER shelf_changed ON products;
                DROP FUNCTION shelf_changed();
                DROP TABLE shelf_version;
                """);
        }
    }
}
