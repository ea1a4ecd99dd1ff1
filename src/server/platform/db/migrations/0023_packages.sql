CREATE TABLE "forms" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"form" jsonb NOT NULL,
	CONSTRAINT "forms_name_unique" UNIQUE("name")
);
--> statement-breakpoint
CREATE TABLE "package_files" (
	"package" text NOT NULL,
	"number" integer NOT NULL,
	"place" text NOT NULL,
	"what" text NOT NULL,
	"file" text NOT NULL,
	"clip" text,
	"root" text NOT NULL,
	"path" text NOT NULL,
	"on_card" text,
	"size" bigint NOT NULL,
	"modified" bigint NOT NULL,
	"state" text NOT NULL,
	"hash" text,
	"stood_size" bigint,
	"stood_modified" bigint,
	"sending" integer NOT NULL,
	"replaces" boolean DEFAULT false NOT NULL,
	"fault" text,
	CONSTRAINT "package_files_package_number_pk" PRIMARY KEY("package","number")
);
--> statement-breakpoint
CREATE TABLE "packages" (
	"id" text PRIMARY KEY NOT NULL,
	"job" text NOT NULL,
	"name" text NOT NULL,
	"wanted" jsonb NOT NULL,
	"root" text NOT NULL,
	"folder" text NOT NULL,
	"made_at" timestamp with time zone NOT NULL,
	"check" jsonb
);
--> statement-breakpoint
CREATE TABLE "sendings" (
	"package" text NOT NULL,
	"number" integer NOT NULL,
	"who" text NOT NULL,
	"state" text NOT NULL,
	"fault" text,
	"fresh" integer NOT NULL,
	"changed" integer NOT NULL,
	"same" integer NOT NULL,
	"left_there" integer NOT NULL,
	"bytes" bigint NOT NULL,
	"remarks" jsonb NOT NULL,
	"queued_at" timestamp with time zone NOT NULL,
	"started_at" timestamp with time zone,
	"ended_at" timestamp with time zone,
	CONSTRAINT "sendings_package_number_pk" PRIMARY KEY("package","number")
);
--> statement-breakpoint
ALTER TABLE "package_files" ADD CONSTRAINT "package_files_package_packages_id_fk" FOREIGN KEY ("package") REFERENCES "public"."packages"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "packages" ADD CONSTRAINT "packages_job_jobs_id_fk" FOREIGN KEY ("job") REFERENCES "public"."jobs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "packages" ADD CONSTRAINT "packages_root_roots_id_fk" FOREIGN KEY ("root") REFERENCES "public"."roots"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sendings" ADD CONSTRAINT "sendings_package_packages_id_fk" FOREIGN KEY ("package") REFERENCES "public"."packages"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "package_files_place" ON "package_files" USING btree ("package","place");--> statement-breakpoint
CREATE INDEX "packages_job" ON "packages" USING btree ("job");--> statement-breakpoint
CREATE UNIQUE INDEX "packages_place" ON "packages" USING btree ("root","folder");--> statement-breakpoint
CREATE TRIGGER keep_removed AFTER DELETE ON "forms" REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION keep_removed('id');--> statement-breakpoint
CREATE TRIGGER keep_removed AFTER DELETE ON "packages" REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION keep_removed('id');
