CREATE TABLE "cameras" (
	"letter" text PRIMARY KEY NOT NULL,
	"model" text
);
--> statement-breakpoint
CREATE TABLE "cards" (
	"id" text PRIMARY KEY NOT NULL,
	"camera" text NOT NULL,
	"day" integer NOT NULL,
	"shape" text NOT NULL,
	"root" text NOT NULL,
	"folder" text NOT NULL,
	"aside" jsonb NOT NULL,
	"proxy_suffix" text,
	"taken_at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
CREATE TABLE "clips" (
	"id" text PRIMARY KEY NOT NULL,
	"card" text NOT NULL,
	"original" text NOT NULL,
	"state" text NOT NULL,
	"fault" text,
	"statements" jsonb NOT NULL,
	"audio" jsonb NOT NULL,
	"filmstrip" boolean DEFAULT false NOT NULL
);
--> statement-breakpoint
CREATE TABLE "days" (
	"number" integer PRIMARY KEY NOT NULL,
	"date" text
);
--> statement-breakpoint
CREATE TABLE "files" (
	"id" text PRIMARY KEY NOT NULL,
	"clip" text NOT NULL,
	"role" text NOT NULL,
	"root" text NOT NULL,
	"path" text NOT NULL,
	"taken_root" text,
	"taken_path" text,
	"suffix" text NOT NULL,
	"size" bigint NOT NULL,
	"modified" bigint NOT NULL
);
--> statement-breakpoint
CREATE TABLE "jobs" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"code" text NOT NULL,
	"zone_minutes" integer NOT NULL,
	"convention" jsonb NOT NULL,
	"folder_plan" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "log" (
	"id" text PRIMARY KEY NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"who" text NOT NULL,
	"kind" text NOT NULL,
	"text" text NOT NULL,
	"plan" text
);
--> statement-breakpoint
CREATE TABLE "pairs" (
	"file" text PRIMARY KEY NOT NULL,
	"clip" text NOT NULL,
	"state" text NOT NULL,
	"checks" jsonb NOT NULL,
	"checked_at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
CREATE TABLE "plans" (
	"id" text PRIMARY KEY NOT NULL,
	"kind" text NOT NULL,
	"state" text NOT NULL,
	"undoes" text,
	"made_at" timestamp with time zone NOT NULL,
	"ended_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "roots" (
	"id" text PRIMARY KEY NOT NULL,
	"kind" text NOT NULL,
	"name" text NOT NULL,
	"path" text NOT NULL,
	CONSTRAINT "roots_path_unique" UNIQUE("path")
);
--> statement-breakpoint
CREATE TABLE "steps" (
	"plan" text NOT NULL,
	"number" integer NOT NULL,
	"clip" text NOT NULL,
	"file" text NOT NULL,
	"kind" text NOT NULL,
	"from_root" text NOT NULL,
	"from_path" text NOT NULL,
	"to_root" text NOT NULL,
	"to_path" text NOT NULL,
	"size" bigint NOT NULL,
	"modified" bigint NOT NULL,
	"state" text NOT NULL,
	"fault" text
);
--> statement-breakpoint
CREATE TABLE "work" (
	"id" text PRIMARY KEY NOT NULL,
	"kind" text NOT NULL,
	"clip" text NOT NULL,
	"state" text NOT NULL,
	"progress" double precision DEFAULT 0 NOT NULL,
	"speed" double precision,
	"fault" text,
	"attempts" integer DEFAULT 0 NOT NULL,
	"queued_at" timestamp with time zone NOT NULL,
	"started_at" timestamp with time zone,
	"ended_at" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "cards" ADD CONSTRAINT "cards_camera_cameras_letter_fk" FOREIGN KEY ("camera") REFERENCES "public"."cameras"("letter") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "cards" ADD CONSTRAINT "cards_day_days_number_fk" FOREIGN KEY ("day") REFERENCES "public"."days"("number") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "cards" ADD CONSTRAINT "cards_root_roots_id_fk" FOREIGN KEY ("root") REFERENCES "public"."roots"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "clips" ADD CONSTRAINT "clips_card_cards_id_fk" FOREIGN KEY ("card") REFERENCES "public"."cards"("id") ON DELETE no action ON UPDATE cascade;--> statement-breakpoint
ALTER TABLE "files" ADD CONSTRAINT "files_clip_clips_id_fk" FOREIGN KEY ("clip") REFERENCES "public"."clips"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "files" ADD CONSTRAINT "files_root_roots_id_fk" FOREIGN KEY ("root") REFERENCES "public"."roots"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "pairs" ADD CONSTRAINT "pairs_file_files_id_fk" FOREIGN KEY ("file") REFERENCES "public"."files"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "pairs" ADD CONSTRAINT "pairs_clip_clips_id_fk" FOREIGN KEY ("clip") REFERENCES "public"."clips"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "steps" ADD CONSTRAINT "steps_plan_plans_id_fk" FOREIGN KEY ("plan") REFERENCES "public"."plans"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "work" ADD CONSTRAINT "work_clip_clips_id_fk" FOREIGN KEY ("clip") REFERENCES "public"."clips"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "clips_card" ON "clips" USING btree ("card");--> statement-breakpoint
CREATE INDEX "files_clip" ON "files" USING btree ("clip");--> statement-breakpoint
CREATE UNIQUE INDEX "files_place" ON "files" USING btree ("root","path");--> statement-breakpoint
CREATE INDEX "log_at" ON "log" USING btree ("at");--> statement-breakpoint
CREATE INDEX "pairs_clip" ON "pairs" USING btree ("clip");--> statement-breakpoint
CREATE UNIQUE INDEX "steps_number" ON "steps" USING btree ("plan","number");--> statement-breakpoint
CREATE INDEX "work_state" ON "work" USING btree ("state");--> statement-breakpoint
CREATE INDEX "work_clip" ON "work" USING btree ("clip");