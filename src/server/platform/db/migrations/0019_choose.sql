CREATE TABLE "binned" (
	"bin" text NOT NULL,
	"clip" text NOT NULL,
	CONSTRAINT "binned_bin_clip_pk" PRIMARY KEY("bin","clip")
);
--> statement-breakpoint
CREATE TABLE "bins" (
	"id" text PRIMARY KEY NOT NULL,
	"job" text NOT NULL,
	"parent" text,
	"name" text NOT NULL,
	"label" text,
	"note" text DEFAULT '' NOT NULL
);
--> statement-breakpoint
CREATE TABLE "keyworded" (
	"clip" text NOT NULL,
	"keyword" text NOT NULL,
	"range" text DEFAULT '' NOT NULL,
	"by" text DEFAULT 'person' NOT NULL,
	CONSTRAINT "keyworded_clip_keyword_range_by_pk" PRIMARY KEY("clip","keyword","range","by")
);
--> statement-breakpoint
CREATE TABLE "keywords" (
	"id" text PRIMARY KEY NOT NULL,
	"job" text NOT NULL,
	"name" text NOT NULL,
	"key" text NOT NULL,
	"family" text DEFAULT '' NOT NULL,
	"hotkey" integer
);
--> statement-breakpoint
CREATE TABLE "ranges" (
	"id" text PRIMARY KEY NOT NULL,
	"clip" text NOT NULL,
	"kind" text NOT NULL,
	"from" integer NOT NULL,
	"to" integer NOT NULL,
	"name" text DEFAULT '' NOT NULL,
	"note" text DEFAULT '' NOT NULL
);
--> statement-breakpoint
CREATE TABLE "searches" (
	"id" text PRIMARY KEY NOT NULL,
	"job" text NOT NULL,
	"name" text NOT NULL,
	"query" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "string_outs" (
	"id" text PRIMARY KEY NOT NULL,
	"job" text NOT NULL,
	"name" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "strung" (
	"id" text PRIMARY KEY NOT NULL,
	"list" text NOT NULL,
	"clip" text NOT NULL,
	"from" integer NOT NULL,
	"to" integer NOT NULL,
	"place" double precision NOT NULL
);
--> statement-breakpoint
ALTER TABLE "binned" ADD CONSTRAINT "binned_bin_bins_id_fk" FOREIGN KEY ("bin") REFERENCES "public"."bins"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "binned" ADD CONSTRAINT "binned_clip_clips_id_fk" FOREIGN KEY ("clip") REFERENCES "public"."clips"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "bins" ADD CONSTRAINT "bins_job_jobs_id_fk" FOREIGN KEY ("job") REFERENCES "public"."jobs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "keyworded" ADD CONSTRAINT "keyworded_clip_clips_id_fk" FOREIGN KEY ("clip") REFERENCES "public"."clips"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "keyworded" ADD CONSTRAINT "keyworded_keyword_keywords_id_fk" FOREIGN KEY ("keyword") REFERENCES "public"."keywords"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "keywords" ADD CONSTRAINT "keywords_job_jobs_id_fk" FOREIGN KEY ("job") REFERENCES "public"."jobs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "ranges" ADD CONSTRAINT "ranges_clip_clips_id_fk" FOREIGN KEY ("clip") REFERENCES "public"."clips"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "searches" ADD CONSTRAINT "searches_job_jobs_id_fk" FOREIGN KEY ("job") REFERENCES "public"."jobs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "string_outs" ADD CONSTRAINT "string_outs_job_jobs_id_fk" FOREIGN KEY ("job") REFERENCES "public"."jobs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "strung" ADD CONSTRAINT "strung_list_string_outs_id_fk" FOREIGN KEY ("list") REFERENCES "public"."string_outs"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "strung" ADD CONSTRAINT "strung_clip_clips_id_fk" FOREIGN KEY ("clip") REFERENCES "public"."clips"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "binned_clip" ON "binned" USING btree ("clip");--> statement-breakpoint
CREATE INDEX "bins_job" ON "bins" USING btree ("job");--> statement-breakpoint
CREATE INDEX "keyworded_keyword" ON "keyworded" USING btree ("keyword");--> statement-breakpoint
CREATE UNIQUE INDEX "keywords_key" ON "keywords" USING btree ("job","key");--> statement-breakpoint
CREATE INDEX "ranges_clip" ON "ranges" USING btree ("clip");--> statement-breakpoint
CREATE INDEX "searches_job" ON "searches" USING btree ("job");--> statement-breakpoint
CREATE INDEX "string_outs_job" ON "string_outs" USING btree ("job");--> statement-breakpoint
CREATE INDEX "strung_list" ON "strung" USING btree ("list","place");--> statement-breakpoint
CREATE TRIGGER keep_removed AFTER DELETE ON "keywords" REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION keep_removed('id');--> statement-breakpoint
CREATE TRIGGER keep_removed AFTER DELETE ON "bins" REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION keep_removed('id');--> statement-breakpoint
CREATE TRIGGER keep_removed AFTER DELETE ON "ranges" REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION keep_removed('id');--> statement-breakpoint
CREATE TRIGGER keep_removed AFTER DELETE ON "searches" REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION keep_removed('id');--> statement-breakpoint
CREATE TRIGGER keep_removed AFTER DELETE ON "keyworded" REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION keep_removed('clip', 'keyword', 'range', 'by');--> statement-breakpoint
CREATE TRIGGER keep_removed AFTER DELETE ON "binned" REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION keep_removed('bin', 'clip');--> statement-breakpoint
CREATE TRIGGER keep_removed AFTER DELETE ON "string_outs" REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION keep_removed('id');--> statement-breakpoint
CREATE TRIGGER keep_removed AFTER DELETE ON "strung" REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION keep_removed('id');
