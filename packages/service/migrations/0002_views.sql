CREATE TABLE "ephoros"."views" (
	"id" text PRIMARY KEY NOT NULL,
	"caller" text NOT NULL,
	"table_name" text NOT NULL,
	"name" text NOT NULL,
	"note" text NOT NULL,
	"view" text NOT NULL,
	"shared" boolean NOT NULL,
	"first" boolean NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"changed_at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX "views_name" ON "ephoros"."views" USING btree ("caller","table_name",lower("name"));--> statement-breakpoint
CREATE INDEX "views_table" ON "ephoros"."views" USING btree ("table_name");--> statement-breakpoint
CREATE UNIQUE INDEX "views_first_own" ON "ephoros"."views" USING btree ("caller","table_name") WHERE "ephoros"."views"."first" and not "ephoros"."views"."shared";--> statement-breakpoint
CREATE UNIQUE INDEX "views_first_shared" ON "ephoros"."views" USING btree ("table_name") WHERE "ephoros"."views"."first" and "ephoros"."views"."shared";