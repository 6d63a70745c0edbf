ALTER TABLE "ephoros"."changes" ADD COLUMN "row_key_before" text;--> statement-breakpoint
ALTER TABLE "ephoros"."changes" ADD COLUMN "notation" text DEFAULT 'answer' NOT NULL;--> statement-breakpoint
ALTER TABLE "ephoros"."changes" ADD COLUMN "rule" text;--> statement-breakpoint
CREATE INDEX "changes_row_before" ON "ephoros"."changes" USING btree ("table_name","row_key_before") WHERE "ephoros"."changes"."row_key_before" is not null;