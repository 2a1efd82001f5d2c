CREATE TABLE "own_keep_outs" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "own_keep_outs_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"user_id" bigint NOT NULL,
	"kind" text NOT NULL,
	"value" text NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "own_keep_outs_kind_known" CHECK ("own_keep_outs"."kind" in ('address', 'domain'))
);
--> statement-breakpoint
ALTER TABLE "own_keep_outs" ADD CONSTRAINT "own_keep_outs_user_id_users_id_fk" FOREIGN KEY ("user_id") REFERENCES "public"."users"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "own_keep_outs_once" ON "own_keep_outs" USING btree ("user_id","kind","value");