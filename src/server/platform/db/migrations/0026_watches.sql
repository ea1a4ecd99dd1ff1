CREATE TABLE "watch_finds" (
	"id" text PRIMARY KEY NOT NULL,
	"watch" text NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"kind" text NOT NULL,
	"text" text NOT NULL,
	"read" boolean DEFAULT false NOT NULL
);
--> statement-breakpoint
CREATE TABLE "watches" (
	"id" text PRIMARY KEY NOT NULL,
	"job" text NOT NULL,
	"root" text NOT NULL,
	"path" text NOT NULL,
	"options" jsonb NOT NULL
);
--> statement-breakpoint
ALTER TABLE "watch_finds" ADD CONSTRAINT "watch_finds_watch_watches_id_fk" FOREIGN KEY ("watch") REFERENCES "public"."watches"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "watches" ADD CONSTRAINT "watches_job_jobs_id_fk" FOREIGN KEY ("job") REFERENCES "public"."jobs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "watches" ADD CONSTRAINT "watches_root_roots_id_fk" FOREIGN KEY ("root") REFERENCES "public"."roots"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "watch_finds_watch" ON "watch_finds" USING btree ("watch","read");--> statement-breakpoint
CREATE UNIQUE INDEX "watches_folder" ON "watches" USING btree ("job","root","path");--> statement-breakpoint
CREATE TRIGGER keep_removed AFTER DELETE ON "watches" REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION keep_removed('id');
