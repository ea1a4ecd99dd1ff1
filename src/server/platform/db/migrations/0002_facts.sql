CREATE TABLE "clocks" (
	"id" text PRIMARY KEY NOT NULL,
	"camera" text NOT NULL,
	"from_day" integer NOT NULL,
	"to_day" integer NOT NULL,
	"seconds" integer NOT NULL,
	"note" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "field_sets" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"fields" jsonb NOT NULL,
	CONSTRAINT "field_sets_name_unique" UNIQUE("name")
);
--> statement-breakpoint
CREATE TABLE "readings" (
	"place" text PRIMARY KEY NOT NULL,
	"state" text NOT NULL,
	"statements" jsonb NOT NULL,
	"fault" text,
	"notes" jsonb NOT NULL
);
--> statement-breakpoint
ALTER TABLE "cameras" ADD COLUMN "maker" text;--> statement-breakpoint
ALTER TABLE "cameras" ADD COLUMN "serials" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "clips" ADD COLUMN "notes" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "clips" ADD COLUMN "read_as" text;--> statement-breakpoint
ALTER TABLE "clips" ADD COLUMN "shown" text;--> statement-breakpoint
ALTER TABLE "clips" ADD COLUMN "brief" text;--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "day_start" integer DEFAULT 4 NOT NULL;--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "rate" jsonb;--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "trust" jsonb DEFAULT '{}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "clocks" ADD CONSTRAINT "clocks_camera_cameras_letter_fk" FOREIGN KEY ("camera") REFERENCES "public"."cameras"("letter") ON DELETE no action ON UPDATE no action;