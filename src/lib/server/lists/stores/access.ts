import { sql } from 'kysely';
import { SUBJECTS } from '#core/access/access';
import type { AccessEntry } from '#core/lists/entries';
import { among, type Store } from './store';

/** Marks of access: who is told by them is settled by the database. */
export const marks: Store<AccessEntry> = {
  async read(db, ids) {
    const { rows } = await sql<AccessEntry & { id: string }>`select id, state, note,
        case ${sql.join(
          SUBJECTS.map((one) => sql`when ${sql.ref(`${one}_id`)} is not null then ${sql.lit(one)}`),
          sql` `,
        )} end as subject,
        coalesce(${sql.join(SUBJECTS.map((one) => sql.ref(`${one}_id`)))}) as of
      from access_mark where id = ${among(ids)}`.execute(db);
    return new Map(
      rows.map(({ id, subject, of, state, note }) => [id, { subject, of, state, note }]),
    );
  },
  async put(db, entries) {
    for (const [id, { subject, of, state, note }] of entries)
      await sql`insert into access_mark (id, ${sql.ref(`${subject}_id`)}, state, note)
        values (${id}::uuid, ${of}::uuid, ${state}, ${note})
        on conflict (id) do update set state = excluded.state, note = excluded.note`.execute(db);
  },
  async drop(db, ids) {
    await sql`delete from access_mark where id = ${among(ids)}`.execute(db);
  },
};
