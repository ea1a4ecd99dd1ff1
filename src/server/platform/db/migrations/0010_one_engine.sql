ALTER TABLE "work" ALTER COLUMN "clip" DROP NOT NULL;--> statement-breakpoint
ALTER TABLE "work" ADD COLUMN "subject" text;--> statement-breakpoint
UPDATE "work" SET "subject" = "clip";--> statement-breakpoint
ALTER TABLE "work" ALTER COLUMN "subject" SET NOT NULL;--> statement-breakpoint
ALTER TABLE "work" ADD COLUMN "wanted" text;--> statement-breakpoint
ALTER TABLE "work" ADD COLUMN "needs" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "work" ADD COLUMN "wish" text;--> statement-breakpoint
ALTER TABLE "work" ADD COLUMN "result" text;--> statement-breakpoint
ALTER TABLE "work" ADD COLUMN "problem" text;--> statement-breakpoint
ALTER TABLE "work" ADD COLUMN "notes" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
CREATE INDEX "work_subject" ON "work" USING btree ("kind","subject") WHERE clip is null;