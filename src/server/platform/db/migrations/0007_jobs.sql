-- Several jobs: what is there belongs to the one that was begun.
ALTER TABLE "cameras" RENAME COLUMN "letter" TO "label";
--> statement-breakpoint
ALTER TABLE "cards" DROP CONSTRAINT "cards_camera_cameras_letter_fk";
--> statement-breakpoint
ALTER TABLE "cards" DROP CONSTRAINT "cards_day_days_number_fk";
--> statement-breakpoint
ALTER TABLE "clips" DROP CONSTRAINT "clips_card_cards_id_fk";
--> statement-breakpoint
ALTER TABLE "clocks" DROP CONSTRAINT "clocks_camera_cameras_letter_fk";
--> statement-breakpoint
DROP INDEX "clips_card";
--> statement-breakpoint
DROP INDEX "log_at";
--> statement-breakpoint
DROP INDEX "work_state";
--> statement-breakpoint
ALTER TABLE "cards" DROP CONSTRAINT "cards_pkey";
--> statement-breakpoint
ALTER TABLE "days" DROP CONSTRAINT "days_pkey";
--> statement-breakpoint
ALTER TABLE "cameras" DROP CONSTRAINT "cameras_pkey";
--> statement-breakpoint
ALTER TABLE "cameras" ADD COLUMN "job" text NOT NULL DEFAULT 'job';
--> statement-breakpoint
ALTER TABLE "cameras" ALTER COLUMN "job" DROP DEFAULT;
--> statement-breakpoint
ALTER TABLE "cards" ADD COLUMN "job" text NOT NULL DEFAULT 'job';
--> statement-breakpoint
ALTER TABLE "cards" ALTER COLUMN "job" DROP DEFAULT;
--> statement-breakpoint
ALTER TABLE "clips" ADD COLUMN "job" text NOT NULL DEFAULT 'job';
--> statement-breakpoint
ALTER TABLE "clips" ALTER COLUMN "job" DROP DEFAULT;
--> statement-breakpoint
ALTER TABLE "clocks" ADD COLUMN "job" text NOT NULL DEFAULT 'job';
--> statement-breakpoint
ALTER TABLE "clocks" ALTER COLUMN "job" DROP DEFAULT;
--> statement-breakpoint
ALTER TABLE "days" ADD COLUMN "job" text NOT NULL DEFAULT 'job';
--> statement-breakpoint
ALTER TABLE "days" ALTER COLUMN "job" DROP DEFAULT;
--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "begun_at" timestamp with time zone;
--> statement-breakpoint
UPDATE "jobs" SET "begun_at" = coalesce((SELECT min("at") FROM "log"), now());
--> statement-breakpoint
ALTER TABLE "jobs" ALTER COLUMN "begun_at" SET NOT NULL, ALTER COLUMN "begun_at" SET DEFAULT now();
--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "put_away_at" timestamp with time zone;
--> statement-breakpoint
ALTER TABLE "log" ADD COLUMN "job" text;
--> statement-breakpoint
UPDATE "log" SET "job" = (SELECT "id" FROM "jobs");
--> statement-breakpoint
ALTER TABLE "offloads" ADD COLUMN "job" text NOT NULL DEFAULT 'job';
--> statement-breakpoint
ALTER TABLE "offloads" ALTER COLUMN "job" DROP DEFAULT;
--> statement-breakpoint
ALTER TABLE "plans" ADD COLUMN "job" text NOT NULL DEFAULT 'job';
--> statement-breakpoint
ALTER TABLE "plans" ALTER COLUMN "job" DROP DEFAULT;
--> statement-breakpoint
ALTER TABLE "work" ADD COLUMN "job" text NOT NULL DEFAULT 'job';
--> statement-breakpoint
ALTER TABLE "work" ALTER COLUMN "job" DROP DEFAULT;
--> statement-breakpoint
ALTER TABLE "cameras" ADD CONSTRAINT "cameras_job_label_pk" PRIMARY KEY("job","label");
--> statement-breakpoint
ALTER TABLE "cards" ADD CONSTRAINT "cards_job_id_pk" PRIMARY KEY("job","id");
--> statement-breakpoint
ALTER TABLE "days" ADD CONSTRAINT "days_job_number_pk" PRIMARY KEY("job","number");
--> statement-breakpoint
ALTER TABLE "cameras" ADD CONSTRAINT "cameras_job_jobs_id_fk" FOREIGN KEY ("job") REFERENCES "public"."jobs"("id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "cards" ADD CONSTRAINT "cards_job_jobs_id_fk" FOREIGN KEY ("job") REFERENCES "public"."jobs"("id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "cards" ADD CONSTRAINT "cards_job_camera_cameras_job_label_fk" FOREIGN KEY ("job","camera") REFERENCES "public"."cameras"("job","label") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "cards" ADD CONSTRAINT "cards_job_day_days_job_number_fk" FOREIGN KEY ("job","day") REFERENCES "public"."days"("job","number") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "clips" ADD CONSTRAINT "clips_job_jobs_id_fk" FOREIGN KEY ("job") REFERENCES "public"."jobs"("id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "clips" ADD CONSTRAINT "clips_job_card_cards_job_id_fk" FOREIGN KEY ("job","card") REFERENCES "public"."cards"("job","id") ON DELETE no action ON UPDATE cascade;
--> statement-breakpoint
ALTER TABLE "clocks" ADD CONSTRAINT "clocks_job_jobs_id_fk" FOREIGN KEY ("job") REFERENCES "public"."jobs"("id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "clocks" ADD CONSTRAINT "clocks_job_camera_cameras_job_label_fk" FOREIGN KEY ("job","camera") REFERENCES "public"."cameras"("job","label") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "days" ADD CONSTRAINT "days_job_jobs_id_fk" FOREIGN KEY ("job") REFERENCES "public"."jobs"("id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "log" ADD CONSTRAINT "log_job_jobs_id_fk" FOREIGN KEY ("job") REFERENCES "public"."jobs"("id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "offloads" ADD CONSTRAINT "offloads_job_jobs_id_fk" FOREIGN KEY ("job") REFERENCES "public"."jobs"("id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "plans" ADD CONSTRAINT "plans_job_jobs_id_fk" FOREIGN KEY ("job") REFERENCES "public"."jobs"("id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "work" ADD CONSTRAINT "work_job_jobs_id_fk" FOREIGN KEY ("job") REFERENCES "public"."jobs"("id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
CREATE INDEX "cards_physical" ON "cards" USING btree ("physical");
--> statement-breakpoint
CREATE UNIQUE INDEX "jobs_code" ON "jobs" USING btree (lower("code"));
--> statement-breakpoint
CREATE INDEX "clips_card" ON "clips" USING btree ("job","card");
--> statement-breakpoint
CREATE INDEX "log_at" ON "log" USING btree ("job","at");
--> statement-breakpoint
CREATE INDEX "work_state" ON "work" USING btree ("job","state");
--> statement-breakpoint
CREATE OR REPLACE FUNCTION keep_removed() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  EXECUTE format(
    'INSERT INTO removed_rows (kind, key) SELECT %L, jsonb_build_array(%s) FROM old_rows',
    TG_TABLE_NAME,
    (SELECT string_agg(quote_ident(c), ', ' ORDER BY n) FROM unnest(TG_ARGV) WITH ORDINALITY AS a (c, n))
  );
  RETURN NULL;
END $$;
--> statement-breakpoint
DROP TRIGGER keep_removed ON "days";
--> statement-breakpoint
CREATE TRIGGER keep_removed AFTER DELETE ON "days" REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION keep_removed('job', 'number');
--> statement-breakpoint
DROP TRIGGER keep_removed ON "cameras";
--> statement-breakpoint
CREATE TRIGGER keep_removed AFTER DELETE ON "cameras" REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION keep_removed('job', 'label');
--> statement-breakpoint
DROP TRIGGER keep_removed ON "cards";
--> statement-breakpoint
CREATE TRIGGER keep_removed AFTER DELETE ON "cards" REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION keep_removed('job', 'id');
--> statement-breakpoint
UPDATE "removed_rows" SET "key" = jsonb_build_array('job') || "key" WHERE "kind" IN ('days', 'cameras', 'cards');
