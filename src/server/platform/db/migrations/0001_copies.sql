CREATE TABLE "offload_files" (
	"offload" text NOT NULL,
	"number" integer NOT NULL,
	"path" text NOT NULL,
	"size" bigint NOT NULL,
	"modified" bigint NOT NULL,
	"to" jsonb NOT NULL,
	"file" text,
	"state" text NOT NULL,
	"hash" text,
	"fault" text,
	"note" text
);
--> statement-breakpoint
CREATE TABLE "offloads" (
	"id" text PRIMARY KEY NOT NULL,
	"card" text NOT NULL,
	"root" text NOT NULL,
	"folder" text NOT NULL,
	"state" text NOT NULL,
	"verification" text NOT NULL,
	"hash" text NOT NULL,
	"destinations" jsonb NOT NULL,
	"files" integer NOT NULL,
	"bytes" bigint NOT NULL,
	"empty_folders" jsonb NOT NULL,
	"cannot" jsonb NOT NULL,
	"fault" text,
	"speed" double precision,
	"queued_at" timestamp with time zone NOT NULL,
	"started_at" timestamp with time zone,
	"ended_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "safe_copies" (
	"id" text PRIMARY KEY NOT NULL,
	"card" text NOT NULL,
	"offload" text NOT NULL,
	"destination" integer NOT NULL,
	"root" text NOT NULL,
	"folder" text NOT NULL,
	"verification" text NOT NULL,
	"hash" text NOT NULL,
	"verified_at" timestamp with time zone NOT NULL,
	"check" jsonb
);
--> statement-breakpoint
ALTER TABLE "clips" ADD COLUMN "kind" text DEFAULT 'video' NOT NULL;--> statement-breakpoint
ALTER TABLE "files" ADD COLUMN "sample" text;--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "intake" jsonb DEFAULT '{"leaveOut":[],"types":{"video":["mp4","mov","mxf","m4v","mts","m2ts","avi","mkv"],"still":["jpg","jpeg","png","tif","tiff","heic","exr","dpx"],"raw":["dng","raw"],"sound":["wav","bwf","w64"]},"shapes":[],"folders":{},"pattern":"{job}/Day {day}/{card}","verification":"contents","hash":"xxh128","stillsRate":25}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "offload_files" ADD CONSTRAINT "offload_files_offload_offloads_id_fk" FOREIGN KEY ("offload") REFERENCES "public"."offloads"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "offload_files_number" ON "offload_files" USING btree ("offload","number");--> statement-breakpoint
CREATE INDEX "offloads_card" ON "offloads" USING btree ("card");--> statement-breakpoint
CREATE INDEX "safe_copies_card" ON "safe_copies" USING btree ("card");--> statement-breakpoint
CREATE INDEX "files_sample" ON "files" USING btree ("sample");