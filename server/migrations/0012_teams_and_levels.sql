CREATE TABLE "team_members" (
	"team_id" bigint NOT NULL,
	"user_id" bigint NOT NULL,
	CONSTRAINT "team_members_team_id_user_id_pk" PRIMARY KEY("team_id","user_id")
);
--> statement-breakpoint
CREATE TABLE "teams" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "teams_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"name" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "emails" DROP CONSTRAINT "emails_visibility_known";--> statement-breakpoint
ALTER TABLE "emails" ADD COLUMN "shared_teams" text[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE "emails" ADD COLUMN "existence_only" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "trial_rows" ADD COLUMN "seen" text;--> statement-breakpoint
ALTER TABLE "team_members" ADD CONSTRAINT "team_members_team_id_teams_id_fk" FOREIGN KEY ("team_id") REFERENCES "public"."teams"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "team_members" ADD CONSTRAINT "team_members_user_id_users_id_fk" FOREIGN KEY ("user_id") REFERENCES "public"."users"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "team_members_by_user" ON "team_members" USING btree ("user_id");--> statement-breakpoint
CREATE UNIQUE INDEX "teams_name_once" ON "teams" USING btree (lower("name"));--> statement-breakpoint
ALTER TABLE "emails" ADD CONSTRAINT "emails_visibility_known" CHECK ("emails"."visibility" in ('owner', 'record', 'teams', 'everyone'));