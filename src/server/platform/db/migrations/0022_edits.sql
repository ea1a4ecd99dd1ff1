CREATE TABLE "edit_uses" (
	"edit" text NOT NULL,
	"clip" text NOT NULL,
	"from" integer NOT NULL,
	"to" integer NOT NULL,
	CONSTRAINT "edit_uses_edit_clip_from_pk" PRIMARY KEY("edit","clip","from")
);
--> statement-breakpoint
CREATE TABLE "edits" (
	"id" text PRIMARY KEY NOT NULL,
	"job" text NOT NULL,
	"name" text NOT NULL,
	"file" text NOT NULL,
	"format" text NOT NULL,
	"text" text NOT NULL,
	"rate" jsonb,
	"guessed" boolean DEFAULT false NOT NULL,
	"read_at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
ALTER TABLE "edit_uses" ADD CONSTRAINT "edit_uses_edit_edits_id_fk" FOREIGN KEY ("edit") REFERENCES "public"."edits"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "edit_uses" ADD CONSTRAINT "edit_uses_clip_clips_id_fk" FOREIGN KEY ("clip") REFERENCES "public"."clips"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "edits" ADD CONSTRAINT "edits_job_jobs_id_fk" FOREIGN KEY ("job") REFERENCES "public"."jobs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "edit_uses_clip" ON "edit_uses" USING btree ("clip");--> statement-breakpoint
CREATE INDEX "edits_job" ON "edits" USING btree ("job");