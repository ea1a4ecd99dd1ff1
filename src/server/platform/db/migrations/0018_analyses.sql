CREATE TABLE "analyses" (
	"clip" text PRIMARY KEY NOT NULL,
	"of" text NOT NULL,
	"seen" jsonb NOT NULL,
	"at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
ALTER TABLE "pairs" ADD COLUMN "of" text;--> statement-breakpoint
ALTER TABLE "pairs" ADD COLUMN "part" jsonb;--> statement-breakpoint
ALTER TABLE "analyses" ADD CONSTRAINT "analyses_clip_clips_id_fk" FOREIGN KEY ("clip") REFERENCES "public"."clips"("id") ON DELETE cascade ON UPDATE no action;