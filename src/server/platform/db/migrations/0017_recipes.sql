CREATE TABLE "recipes" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"recipe" jsonb NOT NULL,
	CONSTRAINT "recipes_name_unique" UNIQUE("name")
);
--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "proxies" jsonb DEFAULT '{"need":{"all":false,"interFrame":true,"codecs":[],"fineChroma":true,"bits":null,"larger":{"width":2048,"height":1152},"faster":60,"bitRate":250000000},"recipe":{"purpose":"proxy","size":{"fit":"box","width":960,"height":540},"interlaced":"deinterlaced","pixels":"square","look":false,"burn":{"name":false,"timecode":false},"words":"","place":{"at":"tree"},"name":"H.264 in MP4, fits in 960×540","video":{"codec":"h264","quality":23,"bitRate":null},"container":"mp4","audio":{"codec":"aac","bitRate":96000,"channels":null}},"rules":[]}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "pairs" ADD COLUMN "recipe" jsonb;--> statement-breakpoint
ALTER TABLE "pairs" ADD COLUMN "stands" boolean DEFAULT false NOT NULL;--> statement-breakpoint
CREATE TRIGGER keep_removed AFTER DELETE ON "recipes" REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION keep_removed('id');
