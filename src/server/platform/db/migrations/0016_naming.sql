ALTER TYPE "public"."fact_field" ADD VALUE 'place' BEFORE 'circled';--> statement-breakpoint
ALTER TYPE "public"."fact_field" ADD VALUE 'givenName' BEFORE 'circled';--> statement-breakpoint
CREATE TABLE "conventions" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"convention" jsonb NOT NULL,
	"folder_plan" jsonb NOT NULL,
	CONSTRAINT "conventions_name_unique" UNIQUE("name")
);
--> statement-breakpoint
CREATE TABLE "numbers" (
	"plan" text NOT NULL,
	"clip" text NOT NULL,
	"series" text NOT NULL,
	"number" integer NOT NULL,
	"letter" text NOT NULL,
	CONSTRAINT "numbers_plan_clip_series_pk" PRIMARY KEY("plan","clip","series")
);
--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "naming" jsonb DEFAULT '{"rules":[],"systems":[]}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "numbers" ADD CONSTRAINT "numbers_plan_plans_id_fk" FOREIGN KEY ("plan") REFERENCES "public"."plans"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE TRIGGER keep_removed AFTER DELETE ON "conventions" REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION keep_removed('id');--> statement-breakpoint
CREATE TRIGGER keep_removed AFTER DELETE ON "numbers" REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION keep_removed('plan', 'clip', 'series');
