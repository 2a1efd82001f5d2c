DROP INDEX "record_changes_former_codes";--> statement-breakpoint
CREATE INDEX "accounts_by_company_key" ON "accounts" USING btree (translate(regexp_replace(lower(name), '\m(gmbh|ag|ltd|llc|inc|bv|as|ab|oy|sa|plc|co|the)\M', '', 'g'), ' -_.,&''', ''));--> statement-breakpoint
CREATE INDEX "deals_by_code_key" ON "deals" USING btree (translate(upper("code"), '-_/.#: ', ''));--> statement-breakpoint
CREATE INDEX "record_changes_former_codes" ON "record_changes" USING btree (translate(upper("before"), '-_/.#: ', '')) WHERE "record_changes"."kind" = 'deal' and "record_changes"."field" = 'code';