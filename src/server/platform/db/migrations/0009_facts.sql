CREATE TYPE "public"."fact_field" AS ENUM('container', 'brand', 'frames', 'length', 'recordedAt', 'title', 'description', 'comment', 'reel', 'scene', 'take', 'circled', 'project', 'uniqueId', 'software', 'start', 'end', 'rate', 'timecodeRate', 'drop', 'sensorRate', 'baseRate', 'speed', 'codec', 'codecTag', 'profile', 'level', 'width', 'height', 'pixelAspect', 'displayAspect', 'rotation', 'chroma', 'bitDepth', 'scan', 'bitRate', 'allIntra', 'range', 'primaries', 'transfer', 'matrix', 'gamma', 'gamut', 'channels', 'audioStreams', 'channelLayout', 'audioCodec', 'sampleRate', 'audioBits', 'audioBitRate', 'samples', 'trackNames', 'maker', 'model', 'serial', 'firmware', 'cameraName', 'operator', 'lensModel', 'lensSerial', 'focalLength', 'focalLength35', 'focusDistance', 'aperture', 'tStop', 'ndFilter', 'iso', 'shutter', 'shutterAngle', 'exposureBias', 'gain', 'whiteBalance', 'tint', 'latitude', 'longitude', 'altitude', 'flightHeight', 'flightHighest', 'heading', 'tilt', 'roll', 'lookName', 'slope', 'offset', 'power', 'saturation', 'lut', 'fileName', 'cameraFile', 'folder', 'size', 'files', 'fileTime');--> statement-breakpoint
CREATE TYPE "public"."fact_source" AS ENUM('person', 'setting', 'correction', 'timecodeTrack', 'sidecar', 'bext', 'ixml', 'flightLog', 'look', 'container', 'tags', 'name', 'file', 'fileTime', 'clock', 'workedOut');--> statement-breakpoint
CREATE TABLE "facts" (
	"clip" integer NOT NULL,
	"job" integer NOT NULL,
	"field" "fact_field" NOT NULL,
	"source" "fact_source" NOT NULL,
	"chosen" boolean NOT NULL,
	"words" text NOT NULL,
	"number" double precision,
	"sort" text,
	"value" jsonb,
	CONSTRAINT "facts_clip_field_source_pk" PRIMARY KEY("clip","field","source")
);
--> statement-breakpoint
CREATE TABLE "said" (
	"clip" text NOT NULL,
	"field" text NOT NULL,
	"value" jsonb NOT NULL,
	"seq" bigserial NOT NULL,
	CONSTRAINT "said_clip_field_pk" PRIMARY KEY("clip","field")
);
--> statement-breakpoint
CREATE TABLE "shown" (
	"number" serial PRIMARY KEY NOT NULL,
	"clip" text NOT NULL,
	"job" text NOT NULL,
	"card" text NOT NULL,
	"revision" integer DEFAULT 1 NOT NULL,
	"worked_out" integer DEFAULT 0 NOT NULL,
	"stale" boolean GENERATED ALWAYS AS (revision <> worked_out) STORED,
	"name" text DEFAULT '' NOT NULL,
	"sort" text DEFAULT '' NOT NULL,
	"recorded" double precision DEFAULT 'infinity' NOT NULL,
	"brief" text,
	"text" text DEFAULT '' NOT NULL,
	CONSTRAINT "shown_clip_unique" UNIQUE("clip")
);
--> statement-breakpoint
ALTER TABLE "cards" ADD COLUMN "clips" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "number" serial NOT NULL;--> statement-breakpoint
ALTER TABLE "said" ADD CONSTRAINT "said_clip_clips_id_fk" FOREIGN KEY ("clip") REFERENCES "public"."clips"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "shown" ADD CONSTRAINT "shown_clip_clips_id_fk" FOREIGN KEY ("clip") REFERENCES "public"."clips"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "facts_chosen" ON "facts" USING btree ("job","field","number","sort" collate "C","clip","words") WHERE chosen;--> statement-breakpoint
CREATE INDEX "shown_order" ON "shown" USING btree ("job","recorded","sort" collate "C","number");--> statement-breakpoint
CREATE INDEX "shown_name" ON "shown" USING btree ("job","sort" collate "C","number");--> statement-breakpoint
CREATE INDEX "shown_card" ON "shown" USING btree ("job","card");--> statement-breakpoint
CREATE INDEX "shown_stale" ON "shown" USING btree ("job") WHERE stale;--> statement-breakpoint
-- What was kept with each clip: its facts become rows; what a person said stands apart. All of it is worked out anew at this start.
INSERT INTO shown (clip, job, card) SELECT id, job, card FROM clips ORDER BY job, card, original;
--> statement-breakpoint
UPDATE cards c SET clips = (SELECT count(*) FROM clips WHERE clips.job = c.job AND clips.card = c.id);
--> statement-breakpoint
-- The rate of stills was written as if a person had said it; it is what the job is set to.
INSERT INTO facts (clip, job, field, source, chosen, words, value)
SELECT s.number, j.number, (f->>'field')::fact_field,
  (CASE WHEN f->>'source' = 'person' THEN 'setting' ELSE f->>'source' END)::fact_source, false, '', f->'value'
FROM clips c JOIN shown s ON s.clip = c.id JOIN jobs j ON j.id = c.job CROSS JOIN LATERAL jsonb_array_elements(c.statements) f
WHERE f->>'field' = ANY (enum_range(NULL::fact_field)::text[]) AND f->>'source' = ANY (enum_range(NULL::fact_source)::text[])
  AND (f->>'source' <> 'person' OR (c.kind = 'stills' AND f->>'field' = 'rate' AND f->'value'->'rate' = jsonb_build_object('num', j.intake->'stillsRate', 'den', 1)))
ON CONFLICT DO NOTHING;
--> statement-breakpoint
INSERT INTO said (clip, field, value)
SELECT c.id, f.value->>'field', f.value->'value'
FROM clips c JOIN jobs j ON j.id = c.job CROSS JOIN LATERAL jsonb_array_elements(c.statements) WITH ORDINALITY f
WHERE f.value->>'source' = 'person'
  AND NOT (c.kind = 'stills' AND f.value->>'field' = 'rate' AND f.value->'value'->'rate' = jsonb_build_object('num', j.intake->'stillsRate', 'den', 1))
ORDER BY c.id, f.ordinality ON CONFLICT DO NOTHING;
--> statement-breakpoint
ALTER TABLE "clips" DROP COLUMN "statements";--> statement-breakpoint
ALTER TABLE "clips" DROP COLUMN "shown";--> statement-breakpoint
ALTER TABLE "clips" DROP COLUMN "brief";--> statement-breakpoint
ALTER TABLE "jobs" ADD CONSTRAINT "jobs_number_unique" UNIQUE("number");
--> statement-breakpoint
CREATE FUNCTION count_clips(touched jsonb) RETURNS void LANGUAGE sql AS $$
  UPDATE cards c SET clips = (SELECT count(*) FROM clips WHERE clips.job = c.job AND clips.card = c.id)
  FROM (SELECT DISTINCT t->>0 AS job, t->>1 AS card FROM jsonb_array_elements(touched) t) x
  WHERE c.job = x.job AND c.id = x.card;
$$;
--> statement-breakpoint
-- Whatever gives several clips another revision locks them in the same order as what works them out.
CREATE FUNCTION revise(clip_ids text[]) RETURNS void LANGUAGE sql AS $$
  UPDATE shown SET revision = revision + 1
  WHERE number IN (SELECT number FROM shown WHERE clip = ANY (clip_ids) ORDER BY number FOR UPDATE);
$$;
--> statement-breakpoint
CREATE FUNCTION clips_changed() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF TG_OP = 'INSERT' THEN
    INSERT INTO shown (clip, job, card) SELECT id, job, card FROM new_rows;
    PERFORM count_clips((SELECT jsonb_agg(DISTINCT jsonb_build_array(job, card)) FROM new_rows));
  ELSIF TG_OP = 'DELETE' THEN
    PERFORM count_clips((SELECT jsonb_agg(DISTINCT jsonb_build_array(job, card)) FROM old_rows));
  ELSE
    PERFORM revise((SELECT array_agg(id) FROM old_rows o JOIN new_rows n USING (id)
      WHERE (o.card, o.original) IS DISTINCT FROM (n.card, n.original)));
    UPDATE shown SET card = n.card FROM new_rows n WHERE shown.clip = n.id AND shown.card <> n.card;
    PERFORM count_clips((SELECT jsonb_agg(jsonb_build_array(o.job, o.card)) || jsonb_agg(jsonb_build_array(n.job, n.card))
      FROM old_rows o JOIN new_rows n USING (id) WHERE o.card <> n.card));
  END IF;
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER clips_added AFTER INSERT ON clips REFERENCING NEW TABLE AS new_rows FOR EACH STATEMENT EXECUTE FUNCTION clips_changed();
--> statement-breakpoint
CREATE TRIGGER clips_changed AFTER UPDATE ON clips REFERENCING OLD TABLE AS old_rows NEW TABLE AS new_rows FOR EACH STATEMENT EXECUTE FUNCTION clips_changed();
--> statement-breakpoint
CREATE TRIGGER clips_gone AFTER DELETE ON clips REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION clips_changed();
--> statement-breakpoint
CREATE FUNCTION shown_gone() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  DELETE FROM facts USING old_rows o WHERE facts.clip = o.number;
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER shown_gone AFTER DELETE ON shown REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION shown_gone();
--> statement-breakpoint
CREATE FUNCTION files_changed() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF TG_OP = 'INSERT' THEN
    PERFORM revise((SELECT array_agg(clip) FROM new_rows));
  ELSIF TG_OP = 'DELETE' THEN
    PERFORM revise((SELECT array_agg(clip) FROM old_rows));
  ELSE
    PERFORM revise((SELECT array_agg(o.clip) || array_agg(n.clip) FROM old_rows o JOIN new_rows n USING (id)
      WHERE (o.clip, o.role, o.path, o.suffix, o.size, o.modified) IS DISTINCT FROM (n.clip, n.role, n.path, n.suffix, n.size, n.modified)));
  END IF;
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER files_added AFTER INSERT ON files REFERENCING NEW TABLE AS new_rows FOR EACH STATEMENT EXECUTE FUNCTION files_changed();
--> statement-breakpoint
CREATE TRIGGER files_changed AFTER UPDATE ON files REFERENCING OLD TABLE AS old_rows NEW TABLE AS new_rows FOR EACH STATEMENT EXECUTE FUNCTION files_changed();
--> statement-breakpoint
CREATE TRIGGER files_gone AFTER DELETE ON files REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION files_changed();
--> statement-breakpoint
-- A clip is recorded with what a person says of it: its own row is changed, too.
CREATE FUNCTION said_changed() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF TG_OP = 'DELETE' THEN
    UPDATE clips SET id = id WHERE id IN (SELECT id FROM clips WHERE id IN (SELECT clip FROM old_rows) ORDER BY id FOR NO KEY UPDATE);
    PERFORM revise((SELECT array_agg(clip) FROM old_rows));
  ELSE
    UPDATE clips SET id = id WHERE id IN (SELECT id FROM clips WHERE id IN (SELECT clip FROM new_rows) ORDER BY id FOR NO KEY UPDATE);
    PERFORM revise((SELECT array_agg(clip) FROM new_rows));
  END IF;
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER said_added AFTER INSERT ON said REFERENCING NEW TABLE AS new_rows FOR EACH STATEMENT EXECUTE FUNCTION said_changed();
--> statement-breakpoint
CREATE TRIGGER said_changed AFTER UPDATE ON said REFERENCING NEW TABLE AS new_rows FOR EACH STATEMENT EXECUTE FUNCTION said_changed();
--> statement-breakpoint
CREATE TRIGGER said_gone AFTER DELETE ON said REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION said_changed();
--> statement-breakpoint
CREATE FUNCTION jobs_changed() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM revise((SELECT array_agg(clip) FROM shown WHERE job = NEW.id));
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER jobs_changed AFTER UPDATE ON jobs FOR EACH ROW
  WHEN ((OLD.trust, OLD.rate, OLD.zone_minutes) IS DISTINCT FROM (NEW.trust, NEW.rate, NEW.zone_minutes)) EXECUTE FUNCTION jobs_changed();
--> statement-breakpoint
CREATE FUNCTION clocks_changed() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM revise((SELECT array_agg(c.id) FROM clips c JOIN cards k ON k.job = c.job AND k.id = c.card
    WHERE (k.job = NEW.job AND k.camera = NEW.camera AND k.day BETWEEN NEW.from_day AND NEW.to_day)
    OR (k.job = OLD.job AND k.camera = OLD.camera AND k.day BETWEEN OLD.from_day AND OLD.to_day)));
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER clocks_changed AFTER INSERT OR UPDATE OR DELETE ON clocks FOR EACH ROW EXECUTE FUNCTION clocks_changed();
--> statement-breakpoint
CREATE FUNCTION cards_changed() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM revise((SELECT array_agg(id) FROM clips WHERE job = NEW.job AND card = NEW.id));
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER cards_changed AFTER UPDATE ON cards FOR EACH ROW
  WHEN ((OLD.camera, OLD.day) IS DISTINCT FROM (NEW.camera, NEW.day)) EXECUTE FUNCTION cards_changed();
