CREATE TABLE "next_steps" (
	"clip" text NOT NULL,
	"step" text NOT NULL,
	"state" text DEFAULT 'waiting' NOT NULL,
	"why" text,
	CONSTRAINT "next_steps_clip_step_pk" PRIMARY KEY("clip","step")
);
--> statement-breakpoint
ALTER TABLE "jobs" ALTER COLUMN "intake" SET DEFAULT '{"next":{"placing":"leave","proxies":false,"keywords":[],"bin":[]},"leaveOut":[],"types":{"video":["mp4","mov","mxf","m4v","mts","m2ts","avi","mkv","webm","mpg","mpeg","m2v","ts","tod","mod","vob","3gp","3g2","wmv","asf","flv","ogv","dv","qt","r3d","braw","ari","arx","crm","rmf"],"still":["jpg","jpeg","png","tif","tiff","heic","heif","avif","exr","dpx","bmp","webp","jxl","hif","jp2"],"raw":["dng","raw","cr2","cr3","crw","nef","nrw","arw","sr2","srf","raf","rw2","rwl","orf","pef","srw","3fr","fff","iiq","x3f","dcr","kdc","mrw","erf","mef","mos"],"sound":["wav","bwf","w64","rf64","aif","aiff","flac","mp3","m4a","caf","ogg","opus"]},"shapes":[],"folders":{},"pattern":"{job}/Day {day}/{card}","verification":"contents","hash":"xxh128","stillsRate":25}'::jsonb;--> statement-breakpoint
ALTER TABLE "next_steps" ADD CONSTRAINT "next_steps_clip_clips_id_fk" FOREIGN KEY ("clip") REFERENCES "public"."clips"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE TRIGGER keep_removed AFTER DELETE ON "next_steps" REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION keep_removed('clip', 'step');
