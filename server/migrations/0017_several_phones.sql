UPDATE "contacts" SET "phones" = ARRAY["phone"] WHERE "phone" <> '';--> statement-breakpoint
ALTER TABLE "contacts" DROP COLUMN "phone";
