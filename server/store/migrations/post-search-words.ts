/** Adds the readers’ search: words of posts, weighted title > excerpt > text, kept up to date by the database. */
import type { MigrationInterface, QueryRunner } from 'typeorm'

export class PostSearchWords1764400000000 implements MigrationInterface {
  name = 'PostSearchWords1764400000000'

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of STATEMENTS) await runner.query(statement)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TRIGGER post_search_words ON post')
    await runner.query('DROP FUNCTION post_search_words()')
    await runner.query('ALTER TABLE post DROP COLUMN search')
    await runner.query(`DELETE FROM setting WHERE name = 'search-language'`)
  }
}

const STATEMENTS = [
  'ALTER TABLE post ADD COLUMN search tsvector',
  // A tsvector holds a megabyte: of very long texts, the beginning is found. Marks of HTML are no words.
  `CREATE FUNCTION post_search_words() RETURNS trigger LANGUAGE plpgsql AS $$
   DECLARE language regconfig := coalesce((SELECT value #>> '{}' FROM setting WHERE name = 'search-language'), 'simple')::regconfig;
   BEGIN
     NEW.search := setweight(to_tsvector(language, NEW.title), 'A') || setweight(to_tsvector(language, NEW.excerpt), 'B')
       || setweight(to_tsvector(language, left(regexp_replace(NEW.html, '<[^>]*>', ' ', 'g'), 150000)), 'C');
     RETURN NEW;
   END $$`,
  `CREATE TRIGGER post_search_words BEFORE INSERT OR UPDATE OF title, excerpt, html, search ON post
   FOR EACH ROW EXECUTE FUNCTION post_search_words()`,
  'UPDATE post SET search = NULL',
  'CREATE INDEX post_search_idx ON post USING gin (search)',
]
