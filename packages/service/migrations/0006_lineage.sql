CREATE TABLE "ephoros"."attempts" (
	"sender" text PRIMARY KEY NOT NULL,
	"count" integer NOT NULL,
	"expires_at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
ALTER TABLE "ephoros"."selections" ADD COLUMN "size" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "ephoros"."sessions" ADD COLUMN "token_id" text;--> statement-breakpoint
ALTER TABLE "ephoros"."tokens" ADD COLUMN "session_id" text;--> statement-breakpoint
ALTER TABLE "ephoros"."tokens" ADD COLUMN "code" text;--> statement-breakpoint
CREATE INDEX "attempts_expires_at" ON "ephoros"."attempts" USING btree ("expires_at");--> statement-breakpoint
CREATE INDEX "selections_caller" ON "ephoros"."selections" USING btree ("caller");--> statement-breakpoint
CREATE INDEX "sessions_token" ON "ephoros"."sessions" USING btree ("token_id");--> statement-breakpoint
CREATE INDEX "tokens_session" ON "ephoros"."tokens" USING btree ("session_id");--> statement-breakpoint
ALTER TABLE "ephoros"."tokens" ADD CONSTRAINT "tokens_code_unique" UNIQUE("code");