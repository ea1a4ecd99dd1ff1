ALTER TABLE "work" ADD COLUMN "worker" text;--> statement-breakpoint
ALTER TABLE "work" ADD COLUMN "turn" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "work" ADD COLUMN "handed_out" boolean DEFAULT false NOT NULL;--> statement-breakpoint
CREATE INDEX "work_open" ON "work" USING btree ("kind","state");