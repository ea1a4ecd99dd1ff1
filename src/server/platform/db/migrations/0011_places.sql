CREATE TABLE "places" (
	"seq" bigserial PRIMARY KEY NOT NULL,
	"file" text NOT NULL,
	"root" text,
	"path" text NOT NULL,
	"on_card" text,
	"copy" text,
	"since" timestamp with time zone DEFAULT now() NOT NULL,
	"until" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "places" ADD CONSTRAINT "places_file_files_id_fk" FOREIGN KEY ("file") REFERENCES "public"."files"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "places_file" ON "places" USING btree ("file");--> statement-breakpoint
CREATE UNIQUE INDEX "places_open" ON "places" USING btree ("file",coalesce(root, ''),"path",coalesce(on_card, '')) WHERE until is null;--> statement-breakpoint
CREATE INDEX "places_card" ON "places" USING btree ("on_card","path") WHERE on_card is not null;--> statement-breakpoint
-- Every place a file is used from is kept: a row begins when it comes to stand there, and ends when it is known to stand there no more.
CREATE FUNCTION below_card(card text, path text) RETURNS text LANGUAGE sql STABLE AS $$
  SELECT CASE WHEN c.folder = '' THEN path ELSE substr(path, length(c.folder) + 2) END FROM physical_cards c WHERE c.id = card
$$;
--> statement-breakpoint
CREATE FUNCTION files_stand() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  -- What is rebuilt brings its history with it.
  IF current_setting('sort_shelf.rebuilding', true) = 'on' THEN RETURN NULL; END IF;
  IF TG_OP = 'INSERT' THEN
    INSERT INTO places (file, root, path, on_card)
    SELECT id, CASE WHEN on_card IS NULL THEN root END, CASE WHEN on_card IS NULL THEN path ELSE below_card(on_card, path) END, on_card
    FROM new_rows ON CONFLICT DO NOTHING;
  ELSE
    -- A card takes its files along; what was copied off one stands on it as well, and what stands in a safe copy stays there.
    UPDATE places p SET until = now() FROM old_rows o JOIN new_rows n USING (id)
    WHERE coalesce(current_setting('sort_shelf.staying', true), '') <> 'on' AND p.file = o.id AND p.until IS NULL AND p.copy IS NULL AND o.on_card IS NULL
      AND p.root = o.root AND p.path = o.path AND (o.root, o.path) IS DISTINCT FROM (n.root, n.path);
    INSERT INTO places (file, root, path) SELECT n.id, n.root, n.path FROM old_rows o JOIN new_rows n USING (id)
    WHERE n.on_card IS NULL AND (o.root, o.path, o.on_card) IS DISTINCT FROM (n.root, n.path, n.on_card)
    ON CONFLICT DO NOTHING;
  END IF;
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER files_stand_new AFTER INSERT ON files REFERENCING NEW TABLE AS new_rows FOR EACH STATEMENT EXECUTE FUNCTION files_stand();
--> statement-breakpoint
CREATE TRIGGER files_stand AFTER UPDATE ON files REFERENCING OLD TABLE AS old_rows NEW TABLE AS new_rows FOR EACH STATEMENT EXECUTE FUNCTION files_stand();
--> statement-breakpoint
-- A card that is offered without a file does not hold it any more; one that holds it again holds it from then on.
CREATE FUNCTION card_files_stand() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF current_setting('sort_shelf.rebuilding', true) = 'on' THEN RETURN NULL; END IF;
  UPDATE places p SET until = n.gone_at FROM old_rows o JOIN new_rows n USING (card, number)
  WHERE o.gone_at IS NULL AND n.gone_at IS NOT NULL AND p.on_card = n.card AND p.path = n.path AND p.until IS NULL;
  INSERT INTO places (file, path, on_card) SELECT DISTINCT p.file, n.path, n.card
  FROM old_rows o JOIN new_rows n USING (card, number) JOIN places p ON p.on_card = n.card AND p.path = n.path
  WHERE o.gone_at IS NOT NULL AND n.gone_at IS NULL
  ON CONFLICT DO NOTHING;
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER card_files_stand AFTER UPDATE ON card_files REFERENCING OLD TABLE AS old_rows NEW TABLE AS new_rows FOR EACH STATEMENT EXECUTE FUNCTION card_files_stand();
--> statement-breakpoint
-- What is known of before: where files stand now, the cards and copies they stand on as well, and the places that plans led them to.
WITH led AS (
  SELECT s.file, s.to_root, s.to_path, max(p.made_at) AS at FROM steps s JOIN plans p ON p.id = s.plan WHERE s.state = 'done' GROUP BY 1, 2, 3
)
INSERT INTO places (file, root, path, on_card, since)
SELECT f.id, CASE WHEN f.on_card IS NULL THEN f.root END,
  CASE WHEN f.on_card IS NULL OR m.folder = '' THEN f.path ELSE substr(f.path, length(m.folder) + 2) END, f.on_card, coalesce(l.at, k.taken_at)
FROM files f JOIN clips c ON c.id = f.clip JOIN cards k ON k.job = c.job AND k.id = c.card
LEFT JOIN physical_cards m ON m.id = f.on_card
LEFT JOIN led l ON l.file = f.id AND l.to_root = f.root AND l.to_path = f.path
ON CONFLICT DO NOTHING;
--> statement-breakpoint
INSERT INTO places (file, path, on_card, since, until)
SELECT DISTINCT ON (o.file, m.path) o.file, m.path, m.card, c.first_seen, m.gone_at
FROM offload_files o JOIN files f ON f.id = o.file JOIN offloads l ON l.id = o.offload JOIN card_files m ON m.card = l.physical AND m.number = o.card_file JOIN physical_cards c ON c.id = m.card
ON CONFLICT DO NOTHING;
--> statement-breakpoint
INSERT INTO places (file, root, path, copy, since)
SELECT o.file, s.root, CASE WHEN s.folder = '' THEN o.path ELSE s.folder || '/' || o.path END, s.id, s.made_at
FROM offload_files o JOIN files f ON f.id = o.file JOIN safe_copies s ON s.offload = o.offload AND o."to" @> to_jsonb(s.destination)
WHERE o.state = 'verified'
ON CONFLICT (file, coalesce(root, ''), path, coalesce(on_card, '')) WHERE until IS NULL DO UPDATE SET copy = excluded.copy;
--> statement-breakpoint
INSERT INTO places (file, root, path, since, until)
SELECT w.file, w.root, w.path, w.since, w.until FROM (
  SELECT s.file, s.to_root AS root, s.to_path AS path, p.made_at AS since,
    lead(p.made_at) OVER (PARTITION BY s.file ORDER BY p.made_at, s.number) AS until
  FROM steps s JOIN plans p ON p.id = s.plan JOIN files f ON f.id = s.file WHERE s.state = 'done'
) w WHERE w.until IS NOT NULL AND w.until > w.since;
--> statement-breakpoint
WITH led AS (
  SELECT s.file, min(p.made_at) AS at FROM steps s JOIN plans p ON p.id = s.plan WHERE s.state = 'done' AND s.kind <> 'copy' GROUP BY 1
)
INSERT INTO places (file, root, path, since, until)
SELECT f.id, f.taken_root, f.taken_path, k.taken_at, l.at
FROM files f JOIN clips c ON c.id = f.clip JOIN cards k ON k.job = c.job AND k.id = c.card LEFT JOIN led l ON l.file = f.id
WHERE f.taken_path IS NOT NULL AND f.on_card IS NULL AND (f.taken_root, f.taken_path) <> (f.root, f.path)
ON CONFLICT DO NOTHING;
