import type { MigrationInterface, QueryRunner } from 'typeorm'

/**
 * Takes that are split over workers: each slice is a row of its own, which a worker computes like any other take; the take itself waits for nobody
 * ("sliced"). `whole_take` says of every take what artists are told, made from its slices where it has some.
 */
export class Slices1764400000000 implements MigrationInterface {
  name = 'Slices1764400000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`ALTER TABLE take ALTER COLUMN number DROP NOT NULL, ADD COLUMN slice jsonb,
      ADD COLUMN part_of uuid REFERENCES take ON DELETE CASCADE`)
    await runner.query('CREATE INDEX ON take (part_of)')
    await runner.query(`CREATE VIEW whole_take AS SELECT t.id, t.shot_id, t.number, t.document, t.settled,
        t.protected, t.sweep, t.varied, t.created_at, t.deleted_at, coalesce(s.slices, 1) AS slices,
        coalesce(s.status, t.status) AS status, coalesce(s.frames_done, t.frames_done) AS frames_done,
        coalesce(s.bytes, t.bytes) AS bytes, coalesce(s.fault, t.fault) AS fault, coalesce(s.note, t.note) AS note,
        coalesce(s.paused_for, t.paused_for) AS paused_for, coalesce(s.host, t.host) AS host,
        coalesce(s.started_at, t.started_at) AS started_at,
        CASE WHEN s.slices IS NULL THEN t.ended_at ELSE s.ended_at END AS ended_at
      FROM take t LEFT JOIN LATERAL (
        SELECT count(*)::int AS slices, sum(frames_done)::int / count(*)::int AS frames_done, sum(bytes)::bigint AS bytes,
          min(fault) AS fault, min(note) AS note, min(paused_for) AS paused_for, string_agg(DISTINCT host, ', ') AS host,
          min(started_at) AS started_at,
          CASE WHEN bool_and(status NOT IN ('waiting', 'computing', 'paused')) THEN max(ended_at) END AS ended_at,
          CASE WHEN bool_or(status = 'failed') THEN 'failed' WHEN bool_or(status = 'cancelled') THEN 'cancelled'
            WHEN bool_or(status = 'paused') THEN 'paused' WHEN bool_and(status = 'done') THEN 'done'
            WHEN bool_and(status = 'waiting') THEN 'waiting' ELSE 'computing' END AS status
        FROM take WHERE part_of = t.id HAVING count(*) > 0) s ON true
      WHERE t.part_of IS NULL`)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP VIEW whole_take')
    await runner.query('DELETE FROM take WHERE part_of IS NOT NULL')
    await runner.query("UPDATE take SET status = 'cancelled', ended_at = now() WHERE status = 'sliced'")
    await runner.query(
      'ALTER TABLE take DROP COLUMN part_of, DROP COLUMN slice, ALTER COLUMN number SET NOT NULL',
    )
  }
}

/** Takes that are paused or protected, where they are computed, and what was varied in those of a sweep. */
export class Lifecycle1764300000000 implements MigrationInterface {
  name = 'Lifecycle1764300000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`ALTER TABLE take ADD COLUMN paused_for text, ADD COLUMN host text,
      ADD COLUMN protected boolean NOT NULL DEFAULT false, ADD COLUMN sweep uuid, ADD COLUMN varied jsonb`)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`ALTER TABLE take DROP COLUMN paused_for, DROP COLUMN protected, DROP COLUMN host,
      DROP COLUMN sweep, DROP COLUMN varied`)
  }
}

/** Where a take may be gone on with, what is to be said of it, and who computes. */
export class Checkpoints1764200000000 implements MigrationInterface {
  name = 'Checkpoints1764200000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`CREATE TABLE take_checkpoint (
      take_id uuid NOT NULL REFERENCES take ON DELETE CASCADE, frame int NOT NULL, part int NOT NULL,
      key char(64) NOT NULL, bytes bytea NOT NULL, PRIMARY KEY (take_id, frame, part))`)
    await runner.query('ALTER TABLE take_checkpoint ALTER COLUMN bytes SET STORAGE EXTERNAL')
    await runner.query('ALTER TABLE take ADD COLUMN note text')
    await runner.query(`CREATE TABLE worker (
      id uuid PRIMARY KEY, host text NOT NULL, threads int NOT NULL, beat_at timestamptz NOT NULL)`)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE take_checkpoint, worker')
    await runner.query('ALTER TABLE take DROP COLUMN note')
  }
}

/** What has settled before the first frame, by what it was computed from; and where a take has it from. */
export class Settled1764100000000 implements MigrationInterface {
  name = 'Settled1764100000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`CREATE TABLE settled_part (
      shot_id uuid NOT NULL REFERENCES shot ON DELETE CASCADE, key char(64) NOT NULL, part int NOT NULL,
      bytes bytea NOT NULL, PRIMARY KEY (shot_id, key, part))`)
    await runner.query('ALTER TABLE settled_part ALTER COLUMN bytes SET STORAGE EXTERNAL')
    await runner.query('ALTER TABLE take ADD COLUMN settled text')
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE settled_part')
    await runner.query('ALTER TABLE take DROP COLUMN settled')
  }
}

/** Bytes are kept outside the rows and not compressed again: the codec has done that. */
export class First1764000000000 implements MigrationInterface {
  name = 'First1764000000000'

  async up(runner: QueryRunner): Promise<void> {
    const statements = `
      CREATE TABLE setting (name text PRIMARY KEY, value text NOT NULL);
      CREATE TABLE shot (
        id uuid PRIMARY KEY DEFAULT gen_random_uuid(), name text NOT NULL, document jsonb NOT NULL,
        version int NOT NULL, thumbnail bytea, created_at timestamptz NOT NULL DEFAULT now(),
        changed_at timestamptz NOT NULL DEFAULT now(), deleted_at timestamptz);
      CREATE TABLE mesh (
        sha char(64) PRIMARY KEY, name text NOT NULL, file text NOT NULL, bytes int NOT NULL,
        facts jsonb NOT NULL, sample boolean NOT NULL DEFAULT false, created_at timestamptz NOT NULL DEFAULT now());
      CREATE TABLE mesh_part (
        sha char(64) NOT NULL REFERENCES mesh ON DELETE CASCADE, part int NOT NULL, bytes bytea NOT NULL,
        PRIMARY KEY (sha, part));
      ALTER TABLE mesh_part ALTER COLUMN bytes SET STORAGE EXTERNAL;
      CREATE TABLE take (
        id uuid PRIMARY KEY DEFAULT gen_random_uuid(), shot_id uuid NOT NULL REFERENCES shot ON DELETE CASCADE,
        number int NOT NULL, document jsonb NOT NULL, status text NOT NULL, frames_done int NOT NULL DEFAULT 0,
        bytes bigint NOT NULL DEFAULT 0, fault text, attempt int NOT NULL DEFAULT 0, beat_at timestamptz,
        started_at timestamptz, ended_at timestamptz, created_at timestamptz NOT NULL DEFAULT now(),
        deleted_at timestamptz, UNIQUE (shot_id, number));
      CREATE TABLE take_frame (
        take_id uuid NOT NULL REFERENCES take ON DELETE CASCADE, frame int NOT NULL, particles int NOT NULL,
        milliseconds real NOT NULL, fingerprint char(16) NOT NULL, measures jsonb NOT NULL, bytes int NOT NULL,
        PRIMARY KEY (take_id, frame));
      CREATE TABLE take_part (
        take_id uuid NOT NULL, frame int NOT NULL, part int NOT NULL, bytes bytea NOT NULL)
        PARTITION BY LIST (take_id);`
    for (const statement of statements.split(';')) if (statement.trim()) await runner.query(statement)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE take_part, take_frame, take, mesh_part, mesh, shot, setting')
  }
}

/** Pictures of shots that move. */
class Strips1764500000000 implements MigrationInterface {
  async up(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE shot ADD strip bytea')
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE shot DROP strip')
  }
}

export const MIGRATIONS = [
  First1764000000000,
  Settled1764100000000,
  Checkpoints1764200000000,
  Lifecycle1764300000000,
  Slices1764400000000,
  Strips1764500000000,
]
