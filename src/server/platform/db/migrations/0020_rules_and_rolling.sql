ALTER TYPE "public"."fact_field" ADD VALUE 'subject' BEFORE 'comment';--> statement-breakpoint
ALTER TYPE "public"."fact_field" ADD VALUE 'timeReference' BEFORE 'sensorRate';--> statement-breakpoint
CREATE TABLE "keyword_rules" (
	"id" text PRIMARY KEY NOT NULL,
	"job" text NOT NULL,
	"kind" text NOT NULL,
	"words" text NOT NULL,
	"query" text NOT NULL,
	"field" text NOT NULL,
	"levels" text NOT NULL,
	"without" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "rolling" (
	"together" text NOT NULL,
	"clip" text NOT NULL,
	"offset" double precision NOT NULL,
	CONSTRAINT "rolling_together_clip_pk" PRIMARY KEY("together","clip")
);
--> statement-breakpoint
CREATE TABLE "sound_checks" (
	"a" text NOT NULL,
	"b" text NOT NULL,
	"of" text NOT NULL,
	"offset" double precision,
	"alike" double precision NOT NULL,
	CONSTRAINT "sound_checks_a_b_pk" PRIMARY KEY("a","b")
);
--> statement-breakpoint
CREATE TABLE "together" (
	"id" text PRIMARY KEY NOT NULL,
	"job" text NOT NULL,
	"state" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "withheld" (
	"clip" text NOT NULL,
	"keyword" text NOT NULL,
	CONSTRAINT "withheld_clip_keyword_pk" PRIMARY KEY("clip","keyword")
);
--> statement-breakpoint
ALTER TABLE "keywords" ADD COLUMN "by" text DEFAULT 'person' NOT NULL;--> statement-breakpoint
ALTER TABLE "keywords" ADD COLUMN "formerly" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "keyword_rules" ADD CONSTRAINT "keyword_rules_job_jobs_id_fk" FOREIGN KEY ("job") REFERENCES "public"."jobs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "rolling" ADD CONSTRAINT "rolling_together_together_id_fk" FOREIGN KEY ("together") REFERENCES "public"."together"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "rolling" ADD CONSTRAINT "rolling_clip_clips_id_fk" FOREIGN KEY ("clip") REFERENCES "public"."clips"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sound_checks" ADD CONSTRAINT "sound_checks_a_clips_id_fk" FOREIGN KEY ("a") REFERENCES "public"."clips"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sound_checks" ADD CONSTRAINT "sound_checks_b_clips_id_fk" FOREIGN KEY ("b") REFERENCES "public"."clips"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "together" ADD CONSTRAINT "together_job_jobs_id_fk" FOREIGN KEY ("job") REFERENCES "public"."jobs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "withheld" ADD CONSTRAINT "withheld_clip_clips_id_fk" FOREIGN KEY ("clip") REFERENCES "public"."clips"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "withheld" ADD CONSTRAINT "withheld_keyword_keywords_id_fk" FOREIGN KEY ("keyword") REFERENCES "public"."keywords"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "keyword_rules_job" ON "keyword_rules" USING btree ("job");--> statement-breakpoint
CREATE INDEX "rolling_clip" ON "rolling" USING btree ("clip");--> statement-breakpoint
CREATE INDEX "sound_checks_b" ON "sound_checks" USING btree ("b");--> statement-breakpoint
CREATE INDEX "together_job" ON "together" USING btree ("job");--> statement-breakpoint
CREATE INDEX "withheld_keyword" ON "withheld" USING btree ("keyword");--> statement-breakpoint
CREATE TRIGGER keep_removed AFTER DELETE ON "keyword_rules" REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION keep_removed('id');--> statement-breakpoint
CREATE TRIGGER keep_removed AFTER DELETE ON "withheld" REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION keep_removed('clip', 'keyword');--> statement-breakpoint
CREATE TRIGGER keep_removed AFTER DELETE ON "together" REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION keep_removed('id');--> statement-breakpoint
CREATE TRIGGER keep_removed AFTER DELETE ON "rolling" REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION keep_removed('together', 'clip');
