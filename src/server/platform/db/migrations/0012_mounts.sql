CREATE TABLE "mounts" (
	"host" text NOT NULL,
	"root" text NOT NULL,
	"path" text NOT NULL,
	CONSTRAINT "mounts_host_root_pk" PRIMARY KEY("host","root")
);
--> statement-breakpoint
ALTER TABLE "roots" DROP CONSTRAINT "roots_path_unique";--> statement-breakpoint
ALTER TABLE "roots" ADD COLUMN "volume" text;--> statement-breakpoint
ALTER TABLE "roots" ADD COLUMN "within" text;--> statement-breakpoint
ALTER TABLE "mounts" ADD CONSTRAINT "mounts_root_roots_id_fk" FOREIGN KEY ("root") REFERENCES "public"."roots"("id") ON DELETE cascade ON UPDATE no action;