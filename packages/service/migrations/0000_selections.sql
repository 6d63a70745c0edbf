CREATE SCHEMA IF NOT EXISTS "ephoros";
--> statement-breakpoint
CREATE TABLE "ephoros"."selection_keys" (
	"selection" text NOT NULL,
	"key" text NOT NULL,
	CONSTRAINT "selection_keys_selection_key_pk" PRIMARY KEY("selection","key")
);
--> statement-breakpoint
CREATE TABLE "ephoros"."selections" (
	"id" text PRIMARY KEY NOT NULL,
	"caller" text NOT NULL,
	"table_name" text NOT NULL,
	"kind" text NOT NULL,
	"filter" text,
	"search" text,
	"version" integer DEFAULT 1 NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"used_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "ephoros"."selection_keys" ADD CONSTRAINT "selection_keys_selection_selections_id_fk" FOREIGN KEY ("selection") REFERENCES "ephoros"."selections"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "selections_used_at" ON "ephoros"."selections" USING btree ("used_at");