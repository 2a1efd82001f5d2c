-- Mail that was imported into a mailbox of several users, or into a filing address, was its owner's alone: it is owned by those who use the
-- mailbox, or by its sender. What is sealed stays with those who sealed it. What has other owners is decided anew.
UPDATE emails e SET owner_ids = w.owners, decided_at = NULL FROM (
  SELECT s.email_id, array_agg(DISTINCT o.id ORDER BY o.id) AS owners
  FROM sightings s JOIN mailboxes m ON m.id = s.mailbox_id,
    LATERAL (
      SELECT m.owner_id AS id WHERE m.kind <> 'filing'
      UNION SELECT u.user_id FROM mailbox_users u WHERE u.mailbox_id = m.id
      UNION SELECT coalesce((SELECT w.id FROM participants p JOIN users w ON lower(w.email) = p.address WHERE p.email_id = s.email_id AND p.role = 'from' LIMIT 1), m.owner_id) WHERE m.kind = 'filing'
    ) o
  WHERE s.email_id IN (
    SELECT i.email_id FROM sightings i JOIN mailboxes b ON b.id = i.mailbox_id
    WHERE i.import_id IS NOT NULL AND (b.kind = 'filing' OR EXISTS (SELECT FROM mailbox_users u WHERE u.mailbox_id = b.id)))
  GROUP BY s.email_id) w
WHERE e.id = w.email_id AND e.outcome IS DISTINCT FROM 'sealed' AND ARRAY(SELECT unnest(e.owner_ids) ORDER BY 1) IS DISTINCT FROM w.owners;
