CREATE TABLE "ephoros"."secrets" (
	"name" text PRIMARY KEY NOT NULL,
	"value" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "ephoros"."sessions" (
	"id" text PRIMARY KEY NOT NULL,
	"caller" text NOT NULL,
	"created_at" timestamp with time zone NOT NULL,
	"expires_at" timestamp with time zone NOT NULL,
	"ended_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "ephoros"."tokens" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"hash" text NOT NULL,
	"roles" text NOT NULL,
	"claims" text NOT NULL,
	"created_at" timestamp with time zone NOT NULL,
	"expires_at" timestamp with time zone,
	"revoked_at" timestamp with time zone,
	"used_at" timestamp with time zone
);
--> statement-breakpoint
CREATE INDEX "sessions_expires_at" ON "ephoros"."sessions" USING btree ("expires_at");--> statement-breakpoint
CREATE INDEX "sessions_caller" ON "ephoros"."sessions" USING btree ("caller");--> statement-breakpoint
CREATE INDEX "tokens_name" ON "ephoros"."tokens" USING btree ("name");