CREATE TABLE "library" (
	"id" text PRIMARY KEY NOT NULL,
	"made_at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
CREATE TABLE "removed_rows" (
	"seq" bigserial PRIMARY KEY NOT NULL,
	"kind" text NOT NULL,
	"key" jsonb NOT NULL
);

--> statement-breakpoint
CREATE FUNCTION keep_removed() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  EXECUTE format('INSERT INTO removed_rows (kind, key) SELECT %L, jsonb_build_array(%I) FROM old_rows', TG_TABLE_NAME, TG_ARGV[0]);
  RETURN NULL;
END $$;
--> statement-breakpoint
DO $$
DECLARE
  recorded text[];
BEGIN
  FOREACH recorded SLICE 1 IN ARRAY ARRAY[
    ['roots', 'id'], ['jobs', 'id'], ['days', 'number'], ['cameras', 'letter'], ['clocks', 'id'], ['field_sets', 'id'], ['physical_cards', 'id'], ['cards', 'id'], ['clips', 'id'],
    ['files', 'id'], ['pairs', 'file'], ['offloads', 'id'], ['safe_copies', 'id'], ['plans', 'id'], ['log', 'id']
  ] LOOP
    EXECUTE format('CREATE TRIGGER keep_removed AFTER DELETE ON %I REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION keep_removed(%L)', recorded[1], recorded[2]);
  END LOOP;
END $$;
