-- An address that begins with a plus sign has no tag: it is told apart as it stands.
DROP INDEX participants_by_untagged;
--> statement-breakpoint
CREATE INDEX participants_by_untagged ON participants (regexp_replace(address, '^([^+]+)\+[^@]*@', '\1@'));
