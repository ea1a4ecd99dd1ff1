CREATE TABLE "templates" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"template" jsonb NOT NULL,
	CONSTRAINT "templates_name_unique" UNIQUE("name")
);--> statement-breakpoint
CREATE TRIGGER keep_removed AFTER DELETE ON "templates" REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION keep_removed('id');
