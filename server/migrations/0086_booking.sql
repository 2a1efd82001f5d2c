CREATE TABLE "booking_links" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "booking_links_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"token_hash" text NOT NULL,
	"kind_id" bigint NOT NULL,
	"maker_id" bigint NOT NULL,
	"kind" text,
	"record_id" bigint,
	"tries" integer DEFAULT 0 NOT NULL,
	"ends_at" timestamp with time zone NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "booking_links_token_once" UNIQUE("token_hash")
);
--> statement-breakpoint
CREATE TABLE "bookings" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "bookings_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"link_id" bigint NOT NULL,
	"kind_id" bigint NOT NULL,
	"uid" text NOT NULL,
	"sequence" integer DEFAULT 0 NOT NULL,
	"host_id" bigint NOT NULL,
	"member_ids" bigint[] NOT NULL,
	"guest_address" text NOT NULL,
	"guest_name" text NOT NULL,
	"note" text DEFAULT '' NOT NULL,
	"zone" text NOT NULL,
	"starts_at" timestamp with time zone NOT NULL,
	"ends_at" timestamp with time zone NOT NULL,
	"state" text DEFAULT 'booked' NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "bookings_link_once" UNIQUE("link_id"),
	CONSTRAINT "bookings_state_known" CHECK ("bookings"."state" in ('booked', 'cancelled'))
);
--> statement-breakpoint
CREATE TABLE "calendar_busy" (
	"calendar_id" bigint NOT NULL,
	"href" text NOT NULL,
	"position" integer NOT NULL,
	"starts_at" timestamp with time zone NOT NULL,
	"ends_at" timestamp with time zone NOT NULL,
	CONSTRAINT "calendar_busy_calendar_id_href_position_pk" PRIMARY KEY("calendar_id","href","position")
);
--> statement-breakpoint
CREATE TABLE "meeting_kinds" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "meeting_kinds_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"owner_id" bigint NOT NULL,
	"name" text NOT NULL,
	"about" text DEFAULT '' NOT NULL,
	"place" text DEFAULT '' NOT NULL,
	"times" jsonb NOT NULL,
	"needs" text NOT NULL,
	"member_ids" bigint[] NOT NULL,
	"revision" integer DEFAULT 0 NOT NULL,
	"removed_at" timestamp with time zone,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "outgoing" ADD COLUMN "calendar" text;--> statement-breakpoint
ALTER TABLE "booking_links" ADD CONSTRAINT "booking_links_kind_id_meeting_kinds_id_fk" FOREIGN KEY ("kind_id") REFERENCES "public"."meeting_kinds"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "booking_links" ADD CONSTRAINT "booking_links_maker_id_users_id_fk" FOREIGN KEY ("maker_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "bookings" ADD CONSTRAINT "bookings_link_id_booking_links_id_fk" FOREIGN KEY ("link_id") REFERENCES "public"."booking_links"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "bookings" ADD CONSTRAINT "bookings_kind_id_meeting_kinds_id_fk" FOREIGN KEY ("kind_id") REFERENCES "public"."meeting_kinds"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "bookings" ADD CONSTRAINT "bookings_host_id_users_id_fk" FOREIGN KEY ("host_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "calendar_busy" ADD CONSTRAINT "calendar_busy_calendar_id_calendars_id_fk" FOREIGN KEY ("calendar_id") REFERENCES "public"."calendars"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "meeting_kinds" ADD CONSTRAINT "meeting_kinds_owner_id_users_id_fk" FOREIGN KEY ("owner_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "bookings_by_time" ON "bookings" USING btree ("ends_at") WHERE "bookings"."state" = 'booked';--> statement-breakpoint
CREATE INDEX "calendar_busy_by_end" ON "calendar_busy" USING btree ("calendar_id","ends_at");--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON calendar_busy, meeting_kinds, booking_links, bookings TO fulvet_worker;--> statement-breakpoint
GRANT SELECT ON meeting_kinds, bookings TO fulvet_app;--> statement-breakpoint
DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['calendar_busy', 'meeting_kinds', 'booking_links', 'bookings']
  LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY worker_all ON %I TO fulvet_worker USING (true) WITH CHECK (true)', name);
  END LOOP;
END $$;--> statement-breakpoint
CREATE POLICY everyone ON meeting_kinds FOR SELECT TO fulvet_app USING (true);--> statement-breakpoint
CREATE POLICY whose_time ON bookings FOR SELECT TO fulvet_app USING (fulvet_acting_user() = ANY (member_ids) OR fulvet_acting_user() = host_id);
