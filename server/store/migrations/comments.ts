/**
 * Comments with replies, moderation and what decided it. What follows from other rows is computed by triggers, so that it
 * is right whoever writes: the place in the thread, whether everything above a reply is shown, the number of shown
 * comments of a post, and the former texts of a comment.
 */
import type { MigrationInterface, QueryRunner } from 'typeorm'

export class Comments1764900000000 implements MigrationInterface {
  name = 'Comments1764900000000'

  async up(runner: QueryRunner): Promise<void> {
    const [watch] = (await runner.query(
      "SELECT pg_get_functiondef('watch_table(regclass, text)'::regprocedure) AS sql",
    )) as { sql: string }[]
    for (const statement of STATEMENTS) await runner.query(statement)
    // Former texts are long: they are logged where they change.
    await runner.query((watch?.sql ?? '').replace(`'rows']`, `'rows', 'edits']`))
    await runner.query("SELECT watch_table('comment', 'id')")
  }

  async down(runner: QueryRunner): Promise<void> {
    for (const statement of BACK) await runner.query(statement)
    const [watch] = (await runner.query(
      "SELECT pg_get_functiondef('watch_table(regclass, text)'::regprocedure) AS sql",
    )) as { sql: string }[]
    await runner.query((watch?.sql ?? '').replace(`'rows', 'edits']`, `'rows']`))
    await runner.query("SELECT watch_table('comment', 'id')")
  }
}

/**
 * Sorts comments by when they were written, each followed by the replies to it: the key of the comment above, and the
 * time and the id in hexadecimal digits.
 */
const KEY =
  "lpad(to_hex(greatest(0, (extract(epoch FROM NEW.created_at) * 1000000)::bigint)), 14, '0') || lpad(to_hex(NEW.id), 8, '0')"

const PLACE = `CREATE FUNCTION comment_place() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
  above record;
BEGIN
  -- Rows that were kept before a column existed do not have it.
  NEW.email := coalesce(NEW.email, ''); NEW.site := coalesce(NEW.site, ''); NEW.by_author := coalesce(NEW.by_author, false);
  NEW.reasons := coalesce(NEW.reasons, '[]'); NEW.edits := coalesce(NEW.edits, '[]'); NEW.version := coalesce(NEW.version, 1);
  IF NEW.parent_id IS NULL THEN
    NEW.thread := ${KEY}; NEW.depth := 0; NEW.started_at := NEW.created_at; NEW.parents_shown := true;
  ELSE
    SELECT post_id, thread, depth, started_at, state = 'shown' AND parents_shown AS shown INTO above
    FROM comment WHERE id = NEW.parent_id;
    IF FOUND THEN
      IF above.post_id <> NEW.post_id THEN
        RAISE EXCEPTION 'a reply is on the post of the comment that it replies to'
          USING ERRCODE = 'check_violation', CONSTRAINT = 'comment_parent_post_check', TABLE = 'comment';
      END IF;
      NEW.thread := above.thread || ${KEY}; NEW.depth := above.depth + 1; NEW.started_at := above.started_at;
      NEW.parents_shown := above.shown;
    END IF;
  END IF;
  IF TG_OP = 'INSERT' THEN
    NEW.state_at := coalesce(NEW.state_at, now());
  ELSE
    IF NEW.state <> OLD.state AND NEW.state_at = OLD.state_at THEN NEW.state_at := clock_timestamp(); END IF;
    IF (NEW.text, NEW.name) IS DISTINCT FROM (OLD.text, OLD.name) AND NEW.edits = OLD.edits THEN
      NEW.edits := OLD.edits || jsonb_build_object('at', clock_timestamp(), 'name', OLD.name, 'text', OLD.text);
      IF NEW.edited_at IS NOT DISTINCT FROM OLD.edited_at THEN NEW.edited_at := clock_timestamp(); END IF;
    END IF;
  END IF;
  RETURN NEW;
END $$`

/** What is below a comment moves, appears and disappears with it. */
const BELOW = `CREATE FUNCTION comment_below() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  UPDATE comment SET post_id = NEW.post_id, parents_shown = (NEW.state = 'shown' AND NEW.parents_shown) WHERE parent_id = NEW.id;
  RETURN NULL;
END $$`

const SHOWN = "state = 'shown' AND parents_shown"
const changedRows: Readonly<Record<string, string>> = {
  INSERT: `SELECT post_id, 1 AS n FROM new_rows WHERE ${SHOWN}`,
  DELETE: `SELECT post_id, -1 AS n FROM old_rows WHERE ${SHOWN}`,
  UPDATE: `SELECT post_id, 1 AS n FROM new_rows WHERE ${SHOWN} UNION ALL SELECT post_id, -1 FROM old_rows WHERE ${SHOWN}`,
}
const TABLES: Readonly<Record<string, string>> = {
  INSERT: 'NEW TABLE AS new_rows',
  DELETE: 'OLD TABLE AS old_rows',
  UPDATE: 'OLD TABLE AS old_rows NEW TABLE AS new_rows',
}

/** Rows are locked in the order of their ids, so that two writers do not wait for each other. */
const tally = (event: string) => [
  `CREATE FUNCTION comment_tally_${event.toLowerCase()}() RETURNS trigger LANGUAGE plpgsql AS $$
   BEGIN
     INSERT INTO comment_tally AS kept (post_id, shown)
     SELECT post_id, sum(n) FROM (${changedRows[event] ?? ''}) changed WHERE EXISTS (SELECT FROM post WHERE post.id = post_id)
     GROUP BY post_id HAVING sum(n) <> 0 ORDER BY post_id
     ON CONFLICT (post_id) DO UPDATE SET shown = kept.shown + EXCLUDED.shown;
     RETURN NULL;
   END $$`,
  `CREATE TRIGGER tally_${event.toLowerCase()} AFTER ${event} ON comment REFERENCING ${TABLES[event] ?? ''}
   FOR EACH STATEMENT EXECUTE FUNCTION comment_tally_${event.toLowerCase()}()`,
]

const STATEMENTS = [
  `ALTER TABLE comment
    ADD COLUMN parent_id integer CONSTRAINT comment_parent_fk REFERENCES comment (id),
    ADD COLUMN email text NOT NULL DEFAULT '', ADD COLUMN site text NOT NULL DEFAULT '',
    ADD COLUMN by_author boolean NOT NULL DEFAULT false,
    ADD COLUMN thread text, ADD COLUMN depth integer NOT NULL DEFAULT 0, ADD COLUMN started_at timestamptz,
    ADD COLUMN parents_shown boolean NOT NULL DEFAULT true, ADD COLUMN state_at timestamptz,
    ADD COLUMN reasons jsonb NOT NULL DEFAULT '[]', ADD COLUMN score real, ADD COLUMN filled_in integer,
    ADD COLUMN writer text, ADD COLUMN client text, ADD COLUMN avatar text,
    ADD COLUMN edited_at timestamptz, ADD COLUMN edits jsonb NOT NULL DEFAULT '[]',
    ADD COLUMN version integer NOT NULL DEFAULT 1`,
  `UPDATE comment SET thread = ${KEY.replaceAll('NEW.', '')}, started_at = created_at, state_at = created_at`,
  `ALTER TABLE comment ALTER COLUMN thread SET NOT NULL, ALTER COLUMN started_at SET NOT NULL,
    ALTER COLUMN state_at SET NOT NULL, ALTER COLUMN state_at SET DEFAULT now()`,
  // With ids that grow downwards, no comment can be below itself.
  'ALTER TABLE comment ADD CONSTRAINT comment_parent_check CHECK (parent_id < id)',
  'ALTER TABLE comment ADD CONSTRAINT comment_depth_check CHECK (depth <= 10)',
  'CREATE INDEX comment_parent_idx ON comment (parent_id)',
  'CREATE INDEX comment_thread_idx ON comment (post_id, thread)',
  'CREATE INDEX comment_started_idx ON comment (post_id, started_at, thread)',
  'CREATE INDEX comment_state_idx ON comment (state, created_at, id)',
  'CREATE INDEX comment_writer_idx ON comment (writer)',
  'CREATE INDEX comment_client_idx ON comment (client)',
  'CREATE INDEX comment_email_idx ON comment (lower(email))',
  'CREATE INDEX comment_same_idx ON comment (md5(lower(text)), created_at)',
  `CREATE TABLE comment_tally (post_id integer CONSTRAINT comment_tally_pk PRIMARY KEY
     CONSTRAINT comment_tally_post_fk REFERENCES post (id) ON DELETE CASCADE, shown integer NOT NULL)`,
  `INSERT INTO comment_tally SELECT post_id, count(*) FROM comment WHERE ${SHOWN} GROUP BY post_id`,
  `CREATE TABLE comment_rate (key text NOT NULL, since timestamptz NOT NULL, count integer NOT NULL,
     CONSTRAINT comment_rate_pk PRIMARY KEY (key, since))`,
  'CREATE INDEX comment_rate_since_idx ON comment_rate (since)',
  PLACE,
  `CREATE TRIGGER comment_place BEFORE INSERT OR UPDATE ON comment FOR EACH ROW EXECUTE FUNCTION comment_place()`,
  BELOW,
  `CREATE TRIGGER comment_below AFTER UPDATE ON comment FOR EACH ROW
   WHEN ((OLD.state, OLD.parents_shown, OLD.post_id, OLD.thread) IS DISTINCT FROM (NEW.state, NEW.parents_shown, NEW.post_id, NEW.thread))
   EXECUTE FUNCTION comment_below()`,
  ...Object.keys(TABLES).flatMap(tally),
  `CREATE FUNCTION comment_tally_truncate() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN DELETE FROM comment_tally; RETURN NULL; END $$`,
  'CREATE TRIGGER tally_truncate AFTER TRUNCATE ON comment FOR EACH STATEMENT EXECUTE FUNCTION comment_tally_truncate()',
]

const BACK = [
  ...[...Object.keys(TABLES), 'TRUNCATE'].flatMap((event) => [
    `DROP TRIGGER tally_${event.toLowerCase()} ON comment`,
    `DROP FUNCTION comment_tally_${event.toLowerCase()}()`,
  ]),
  'DROP TRIGGER comment_below ON comment',
  'DROP FUNCTION comment_below()',
  'DROP TRIGGER comment_place ON comment',
  'DROP FUNCTION comment_place()',
  'DROP TABLE comment_rate, comment_tally',
  'DROP INDEX comment_same_idx, comment_email_idx, comment_state_idx',
  `ALTER TABLE comment DROP COLUMN parent_id, DROP COLUMN email, DROP COLUMN site, DROP COLUMN by_author, DROP COLUMN thread,
    DROP COLUMN depth, DROP COLUMN started_at, DROP COLUMN parents_shown, DROP COLUMN state_at, DROP COLUMN reasons,
    DROP COLUMN score, DROP COLUMN filled_in, DROP COLUMN writer, DROP COLUMN client, DROP COLUMN avatar,
    DROP COLUMN edited_at, DROP COLUMN edits, DROP COLUMN version`,
]
