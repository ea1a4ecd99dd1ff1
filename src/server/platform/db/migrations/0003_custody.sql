CREATE TABLE "card_files" (
	"card" text NOT NULL,
	"number" integer NOT NULL,
	"path" text NOT NULL,
	"size" bigint NOT NULL,
	"modified" bigint NOT NULL,
	"sample" text,
	"gone_at" timestamp with time zone,
	CONSTRAINT "card_files_card_number_pk" PRIMARY KEY("card","number")
);
--> statement-breakpoint
CREATE TABLE "card_readings" (
	"seq" bigserial PRIMARY KEY NOT NULL,
	"card" text NOT NULL,
	"number" integer NOT NULL,
	"kind" text NOT NULL,
	"value" text NOT NULL,
	"at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
CREATE TABLE "copy_readings" (
	"seq" bigserial PRIMARY KEY NOT NULL,
	"copy" text NOT NULL,
	"number" integer NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"how" text NOT NULL,
	"result" text NOT NULL,
	"kind" text,
	"value" text,
	"size" bigint NOT NULL,
	"modified" bigint NOT NULL
);
--> statement-breakpoint
CREATE TABLE "physical_cards" (
	"id" text PRIMARY KEY NOT NULL,
	"label" text NOT NULL,
	"root" text NOT NULL,
	"folder" text NOT NULL,
	"volume" text,
	"whole_volume" boolean NOT NULL,
	"outside" jsonb NOT NULL,
	"cannot" jsonb NOT NULL,
	"first_seen" timestamp with time zone NOT NULL,
	"last_seen" timestamp with time zone NOT NULL
);
--> statement-breakpoint
DROP INDEX "offloads_card";--> statement-breakpoint
DROP INDEX "safe_copies_card";--> statement-breakpoint
DROP INDEX "files_place";--> statement-breakpoint
ALTER TABLE "cards" ADD COLUMN "physical" text;--> statement-breakpoint
ALTER TABLE "files" ADD COLUMN "on_card" text;--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "offline_counts" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "offload_files" ADD COLUMN "card_file" integer;--> statement-breakpoint
ALTER TABLE "offloads" ADD COLUMN "physical" text;--> statement-breakpoint
ALTER TABLE "safe_copies" ADD COLUMN "physical" text;--> statement-breakpoint
ALTER TABLE "safe_copies" ADD COLUMN "made_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "safe_copies" ADD COLUMN "listed" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "safe_copies" ADD COLUMN "volume" text;--> statement-breakpoint
ALTER TABLE "safe_copies" ADD COLUMN "disk" jsonb;--> statement-breakpoint
ALTER TABLE "safe_copies" ADD COLUMN "seen_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "safe_copies" ADD COLUMN "not_as_recorded" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
-- What earlier versions kept by card id is carried over on the safe side: each copying is a physical card of its own; what a check by lists
-- had promoted from sizes, and every copy in which a check had found something wrong, has to be checked again.
INSERT INTO "physical_cards" ("id", "label", "root", "folder", "whole_volume", "outside", "cannot", "first_seen", "last_seen")
	SELECT "id", "card", "root", "folder", false, '[]', "cannot", "queued_at", "queued_at" FROM "offloads";--> statement-breakpoint
UPDATE "offloads" SET "physical" = "id";--> statement-breakpoint
UPDATE "offload_files" SET "card_file" = "number";--> statement-breakpoint
INSERT INTO "card_files" ("card", "number", "path", "size", "modified", "sample")
	SELECT o."offload", o."number", o."path", o."size", o."modified", CASE WHEN f."role" = 'original' THEN f."sample" END
	FROM "offload_files" o LEFT JOIN "files" f ON f."id" = o."file";--> statement-breakpoint
INSERT INTO "card_readings" ("card", "number", "kind", "value", "at")
	SELECT f."offload", f."number", o."hash", f."hash", coalesce(o."ended_at", o."queued_at")
	FROM "offload_files" f JOIN "offloads" o ON o."id" = f."offload" WHERE f."state" = 'verified' AND f."hash" IS NOT NULL;--> statement-breakpoint
UPDATE "safe_copies" SET "physical" = "offload", "listed" = (SELECT count(*)::int FROM "offload_files" f WHERE f."offload" = "safe_copies"."offload" AND f."state" = 'verified' AND f."to" @> to_jsonb("safe_copies"."destination")), "made_at" = "verified_at", "disk" = '{"kind":"unknown","disks":[],"lasting":false,"name":"not looked at yet"}';--> statement-breakpoint
INSERT INTO "copy_readings" ("copy", "number", "at", "how", "result", "kind", "value", "size", "modified")
	SELECT c."id", f."number", c."made_at", 'copied', CASE WHEN g."good" THEN 'read' ELSE 'sizeOnly' END, c."hash", CASE WHEN g."good" THEN f."hash" END, f."size", f."modified"
	FROM "safe_copies" c JOIN "offload_files" f ON f."offload" = c."offload" AND f."state" = 'verified' AND f."to" @> to_jsonb(c."destination")
	CROSS JOIN LATERAL (SELECT c."verification" <> 'sizes' AND (c."check" IS NULL OR
		(jsonb_array_length(c."check"->'changed') = 0 AND jsonb_array_length(c."check"->'missing') = 0 AND jsonb_array_length(c."check"->'unreadable') = 0)) AS "good") g;--> statement-breakpoint
UPDATE "cards" SET "physical" = (SELECT o."id" FROM "offloads" o WHERE o."card" = "cards"."id" AND o."root" = "cards"."root" AND o."folder" = "cards"."folder"
	AND o."state" <> 'cancelled' AND o."queued_at" >= "cards"."taken_at" - interval '1 minute' ORDER BY o."queued_at" DESC LIMIT 1);--> statement-breakpoint
UPDATE "files" SET "on_card" = "cards"."physical" FROM "clips" JOIN "cards" ON "cards"."id" = "clips"."card"
	WHERE "files"."clip" = "clips"."id" AND "cards"."physical" IS NOT NULL AND "files"."root" = "cards"."root"
	AND EXISTS (SELECT 1 FROM "offload_files" f WHERE f."file" = "files"."id" AND f."state" <> 'verified');--> statement-breakpoint
UPDATE "safe_copies" SET "check" = NULL;--> statement-breakpoint
ALTER TABLE "offload_files" ALTER COLUMN "card_file" SET NOT NULL;--> statement-breakpoint
ALTER TABLE "offloads" ALTER COLUMN "physical" SET NOT NULL;--> statement-breakpoint
ALTER TABLE "safe_copies" ALTER COLUMN "physical" SET NOT NULL;--> statement-breakpoint
ALTER TABLE "safe_copies" ALTER COLUMN "made_at" SET NOT NULL;--> statement-breakpoint
ALTER TABLE "safe_copies" ALTER COLUMN "disk" SET NOT NULL;--> statement-breakpoint
ALTER TABLE "card_files" ADD CONSTRAINT "card_files_card_physical_cards_id_fk" FOREIGN KEY ("card") REFERENCES "public"."physical_cards"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "card_readings" ADD CONSTRAINT "card_readings_card_physical_cards_id_fk" FOREIGN KEY ("card") REFERENCES "public"."physical_cards"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "copy_readings" ADD CONSTRAINT "copy_readings_copy_safe_copies_id_fk" FOREIGN KEY ("copy") REFERENCES "public"."safe_copies"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "card_files_sample" ON "card_files" USING btree ("sample");--> statement-breakpoint
CREATE INDEX "card_readings_file" ON "card_readings" USING btree ("card","number");--> statement-breakpoint
CREATE INDEX "copy_readings_file" ON "copy_readings" USING btree ("copy","number");--> statement-breakpoint
ALTER TABLE "cards" ADD CONSTRAINT "cards_physical_physical_cards_id_fk" FOREIGN KEY ("physical") REFERENCES "public"."physical_cards"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "offloads" ADD CONSTRAINT "offloads_physical_physical_cards_id_fk" FOREIGN KEY ("physical") REFERENCES "public"."physical_cards"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "safe_copies" ADD CONSTRAINT "safe_copies_physical_physical_cards_id_fk" FOREIGN KEY ("physical") REFERENCES "public"."physical_cards"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "files_place_on_card" ON "files" USING btree ("on_card","path") WHERE on_card is not null;--> statement-breakpoint
CREATE INDEX "offloads_physical" ON "offloads" USING btree ("physical");--> statement-breakpoint
CREATE INDEX "safe_copies_physical" ON "safe_copies" USING btree ("physical");--> statement-breakpoint
CREATE UNIQUE INDEX "safe_copies_destination" ON "safe_copies" USING btree ("offload","destination");--> statement-breakpoint
CREATE UNIQUE INDEX "files_place" ON "files" USING btree ("root","path") WHERE on_card is null;--> statement-breakpoint
ALTER TABLE "safe_copies" DROP COLUMN "card";--> statement-breakpoint
ALTER TABLE "safe_copies" DROP COLUMN "verified_at";