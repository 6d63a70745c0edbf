CREATE TABLE "ephoros"."change_sets" (
	"id" text PRIMARY KEY NOT NULL,
	"caller" text NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"state" text NOT NULL,
	"transaction" text NOT NULL,
	"idempotency_key" text,
	"digest" text,
	"answer" text,
	"undoes" text
);
--> statement-breakpoint
CREATE TABLE "ephoros"."changes" (
	"set_id" text NOT NULL,
	"place" integer NOT NULL,
	"table_name" text NOT NULL,
	"row_key" text NOT NULL,
	"kind" text NOT NULL,
	"columns" text NOT NULL,
	"before" text,
	"after" text,
	CONSTRAINT "changes_set_id_place_pk" PRIMARY KEY("set_id","place")
);
--> statement-breakpoint
ALTER TABLE "ephoros"."changes" ADD CONSTRAINT "changes_set_id_change_sets_id_fk" FOREIGN KEY ("set_id") REFERENCES "ephoros"."change_sets"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "change_sets_idempotency_key" ON "ephoros"."change_sets" USING btree ("caller","idempotency_key");--> statement-breakpoint
CREATE INDEX "change_sets_at" ON "ephoros"."change_sets" USING btree ("at");--> statement-breakpoint
CREATE INDEX "change_sets_undoes" ON "ephoros"."change_sets" USING btree ("undoes");--> statement-breakpoint
CREATE INDEX "changes_row" ON "ephoros"."changes" USING btree ("table_name","row_key");