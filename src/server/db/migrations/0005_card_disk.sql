ALTER TABLE "jobs" ADD COLUMN "servers_apart" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "physical_cards" ADD COLUMN "disk" jsonb;