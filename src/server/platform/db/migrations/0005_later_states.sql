ALTER TABLE "jobs" ADD COLUMN "servers_apart" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "library" ADD COLUMN "runs" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "library" ADD COLUMN "rebuilt_from" jsonb;--> statement-breakpoint
ALTER TABLE "physical_cards" ADD COLUMN "disk" jsonb;