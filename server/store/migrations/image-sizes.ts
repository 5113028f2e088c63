/**
 * Adds a table for the sizes in which images are served. A size is keyed by the content of its image, and deleted with the
 * last image that has this content. Former contents are kept once each.
 */
import type { MigrationInterface, QueryRunner } from 'typeorm'

/** Several images with the same content can be deleted at once. */
const KEEP_FORMER_IMAGE = `CREATE OR REPLACE FUNCTION keep_former_image() RETURNS trigger LANGUAGE plpgsql AS $$
   BEGIN
     INSERT INTO former_image (sha256, bytes) SELECT DISTINCT ON (sha256) sha256, bytes FROM old_rows
       ON CONFLICT (sha256) DO UPDATE SET at = now();
     RETURN NULL;
   END $$`

export class ImageSizes1765400000000 implements MigrationInterface {
  name = 'ImageSizes1765400000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(KEEP_FORMER_IMAGE)
    await runner.query(
      `CREATE TABLE image_size (sha256 text NOT NULL, width integer NOT NULL, format text NOT NULL, bytes bytea NOT NULL,
        CONSTRAINT image_size_pk PRIMARY KEY (sha256, width, format))`,
    )
    // Images are compressed already.
    await runner.query('ALTER TABLE image_size ALTER COLUMN bytes SET STORAGE EXTERNAL')
    await runner.query('CREATE INDEX image_sha256_idx ON image (sha256)')
    await runner.query(
      `CREATE FUNCTION image_sizes_dropped() RETURNS trigger LANGUAGE plpgsql AS $$
       BEGIN
         DELETE FROM image_size WHERE sha256 = OLD.sha256
           AND NOT EXISTS (SELECT FROM image WHERE image.sha256 = OLD.sha256);
         RETURN NULL;
       END $$`,
    )
    await runner.query(
      `CREATE TRIGGER image_sizes_dropped AFTER DELETE OR UPDATE OF sha256 ON image
       FOR EACH ROW EXECUTE FUNCTION image_sizes_dropped()`,
    )
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TRIGGER image_sizes_dropped ON image')
    await runner.query('DROP FUNCTION image_sizes_dropped')
    await runner.query('DROP INDEX image_sha256_idx')
    await runner.query('DROP TABLE image_size')
  }
}
