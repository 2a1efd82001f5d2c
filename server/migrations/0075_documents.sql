CREATE TABLE "document_links" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "document_links_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"token_hash" text NOT NULL,
	"version_id" bigint NOT NULL,
	"writer_id" bigint NOT NULL,
	"outgoing_id" bigint,
	"recipients" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"ends_at" timestamp with time zone NOT NULL,
	"withdrawn_at" timestamp with time zone,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "document_links_token_once" UNIQUE("token_hash")
);
--> statement-breakpoint
CREATE TABLE "document_parts" (
	"version_id" bigint NOT NULL,
	"part" integer NOT NULL,
	"content" "bytea" NOT NULL,
	CONSTRAINT "document_parts_once" PRIMARY KEY("version_id","part")
);
--> statement-breakpoint
CREATE TABLE "document_versions" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "document_versions_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"document_id" bigint NOT NULL,
	"number" integer NOT NULL,
	"name" text NOT NULL,
	"type" text NOT NULL,
	"size" integer NOT NULL,
	"added_by" bigint NOT NULL,
	"added_at" timestamp with time zone DEFAULT now() NOT NULL,
	"withdrawn_at" timestamp with time zone,
	CONSTRAINT "document_versions_once" UNIQUE("document_id","number")
);
--> statement-breakpoint
CREATE TABLE "documents" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "documents_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"owner_id" bigint NOT NULL,
	"scope" text DEFAULT 'own' NOT NULL,
	"team_id" bigint,
	"topic" text DEFAULT '' NOT NULL,
	"title" text NOT NULL,
	"language" text DEFAULT '' NOT NULL,
	"valid_until" date,
	"revision" integer DEFAULT 0 NOT NULL,
	"removed_at" timestamp with time zone,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "documents_scope_known" CHECK ("documents"."scope" in ('own', 'team', 'all'))
);
--> statement-breakpoint
CREATE TABLE "template_documents" (
	"template_id" bigint NOT NULL,
	"document_id" bigint NOT NULL,
	CONSTRAINT "template_documents_once" PRIMARY KEY("template_id","document_id")
);
--> statement-breakpoint
ALTER TABLE "workspace" ADD COLUMN "link_address" text;--> statement-breakpoint
ALTER TABLE "workspace" ADD COLUMN "link_proof" jsonb;--> statement-breakpoint
ALTER TABLE "document_links" ADD CONSTRAINT "document_links_version_id_document_versions_id_fk" FOREIGN KEY ("version_id") REFERENCES "public"."document_versions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "document_links" ADD CONSTRAINT "document_links_writer_id_users_id_fk" FOREIGN KEY ("writer_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "document_links" ADD CONSTRAINT "document_links_outgoing_id_outgoing_id_fk" FOREIGN KEY ("outgoing_id") REFERENCES "public"."outgoing"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "document_parts" ADD CONSTRAINT "document_parts_version_id_document_versions_id_fk" FOREIGN KEY ("version_id") REFERENCES "public"."document_versions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "document_versions" ADD CONSTRAINT "document_versions_document_id_documents_id_fk" FOREIGN KEY ("document_id") REFERENCES "public"."documents"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "document_versions" ADD CONSTRAINT "document_versions_added_by_users_id_fk" FOREIGN KEY ("added_by") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "documents" ADD CONSTRAINT "documents_owner_id_users_id_fk" FOREIGN KEY ("owner_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "documents" ADD CONSTRAINT "documents_team_id_teams_id_fk" FOREIGN KEY ("team_id") REFERENCES "public"."teams"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "template_documents" ADD CONSTRAINT "template_documents_template_id_templates_id_fk" FOREIGN KEY ("template_id") REFERENCES "public"."templates"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "template_documents" ADD CONSTRAINT "template_documents_document_id_documents_id_fk" FOREIGN KEY ("document_id") REFERENCES "public"."documents"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "document_links_by_writer" ON "document_links" USING btree ("writer_id");--> statement-breakpoint
CREATE INDEX "document_links_by_outgoing" ON "document_links" USING btree ("outgoing_id");--> statement-breakpoint
CREATE INDEX "document_links_by_version" ON "document_links" USING btree ("version_id");--> statement-breakpoint
CREATE INDEX "documents_by_owner" ON "documents" USING btree ("owner_id");--> statement-breakpoint
CREATE INDEX "template_documents_by_document" ON "template_documents" USING btree ("document_id");--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON documents, document_versions, document_parts, document_links, template_documents TO fulvet_app, fulvet_worker;--> statement-breakpoint
ALTER TABLE documents ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
ALTER TABLE document_versions ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
ALTER TABLE document_parts ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
ALTER TABLE document_links ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
ALTER TABLE template_documents ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
CREATE POLICY worker_all ON documents TO fulvet_worker USING (true) WITH CHECK (true);--> statement-breakpoint
CREATE POLICY worker_all ON document_versions TO fulvet_worker USING (true) WITH CHECK (true);--> statement-breakpoint
CREATE POLICY worker_all ON document_parts TO fulvet_worker USING (true) WITH CHECK (true);--> statement-breakpoint
CREATE POLICY worker_all ON document_links TO fulvet_worker USING (true) WITH CHECK (true);--> statement-breakpoint
CREATE POLICY worker_all ON template_documents TO fulvet_worker USING (true) WITH CHECK (true);--> statement-breakpoint
-- One's own; what is shared with everyone or with one's teams; administrators keep all that is shared.
CREATE POLICY own_or_shared ON documents FOR SELECT TO fulvet_app USING (
  owner_id = (SELECT fulvet_acting_user())
  OR (removed_at IS NULL AND (SELECT fulvet_acting_user()) IS NOT NULL
    AND (scope = 'all' OR (scope = 'team' AND team_id IN (SELECT t.team_id FROM team_members t WHERE t.user_id = (SELECT fulvet_acting_user())))))
  OR (scope <> 'own' AND (SELECT u.role FROM users u WHERE u.id = (SELECT fulvet_acting_user())) = 'admin'));--> statement-breakpoint
CREATE POLICY own_or_kept ON documents TO fulvet_app
  USING (owner_id = (SELECT fulvet_acting_user())
    OR (scope <> 'own' AND (SELECT u.role FROM users u WHERE u.id = (SELECT fulvet_acting_user())) = 'admin'))
  WITH CHECK (owner_id = (SELECT fulvet_acting_user())
    OR (scope <> 'own' AND (SELECT u.role FROM users u WHERE u.id = (SELECT fulvet_acting_user())) = 'admin'));--> statement-breakpoint
CREATE POLICY of_document ON document_versions FOR SELECT TO fulvet_app USING (document_id IN (SELECT d.id FROM documents d));--> statement-breakpoint
CREATE POLICY of_kept_document ON document_versions TO fulvet_app
  USING (EXISTS (SELECT FROM documents d WHERE d.id = document_id AND (d.owner_id = (SELECT fulvet_acting_user())
    OR (d.scope <> 'own' AND (SELECT u.role FROM users u WHERE u.id = (SELECT fulvet_acting_user())) = 'admin'))));--> statement-breakpoint
CREATE POLICY of_version ON document_parts FOR SELECT TO fulvet_app USING (version_id IN (SELECT v.id FROM document_versions v));--> statement-breakpoint
CREATE POLICY of_kept_version ON document_parts TO fulvet_app
  USING (EXISTS (SELECT FROM document_versions v JOIN documents d ON d.id = v.document_id WHERE v.id = version_id AND (d.owner_id = (SELECT fulvet_acting_user())
    OR (d.scope <> 'own' AND (SELECT u.role FROM users u WHERE u.id = (SELECT fulvet_acting_user())) = 'admin'))));--> statement-breakpoint
-- To whom a member sent a link is the member's own mail.
CREATE POLICY own_links ON document_links TO fulvet_app
  USING (writer_id = (SELECT fulvet_acting_user())) WITH CHECK (writer_id = (SELECT fulvet_acting_user()));--> statement-breakpoint
CREATE POLICY of_template ON template_documents FOR SELECT TO fulvet_app USING (template_id IN (SELECT t.id FROM templates t));--> statement-breakpoint
CREATE POLICY of_kept_template ON template_documents TO fulvet_app
  USING (EXISTS (SELECT FROM templates t WHERE t.id = template_id AND (t.owner_id = (SELECT fulvet_acting_user())
    OR (t.scope <> 'own' AND (SELECT u.role FROM users u WHERE u.id = (SELECT fulvet_acting_user())) = 'admin'))));--> statement-breakpoint
-- What a link opens, for whoever has its token: no one is signed in.
CREATE FUNCTION fulvet_open_link(hash text) RETURNS TABLE (version_id bigint, name text, type text, size integer, is_open boolean)
  LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS $$
  SELECT v.id, v.name, v.type, v.size, l.withdrawn_at IS NULL AND v.withdrawn_at IS NULL AND d.removed_at IS NULL AND l.ends_at > now()
    AND (d.valid_until IS NULL OR d.valid_until >= (now() AT TIME ZONE 'UTC')::date)
  FROM document_links l JOIN document_versions v ON v.id = l.version_id JOIN documents d ON d.id = v.document_id WHERE l.token_hash = hash
$$;--> statement-breakpoint
CREATE FUNCTION fulvet_link_part(hash text, wanted integer) RETURNS bytea LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS $$
  SELECT p.content FROM fulvet_open_link(hash) o JOIN document_parts p ON p.version_id = o.version_id AND p.part = wanted WHERE o.is_open
$$;--> statement-breakpoint
REVOKE ALL ON FUNCTION fulvet_open_link(text), fulvet_link_part(text, integer) FROM PUBLIC;--> statement-breakpoint
GRANT EXECUTE ON FUNCTION fulvet_open_link(text), fulvet_link_part(text, integer) TO fulvet_app;
