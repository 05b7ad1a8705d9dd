import { sql } from 'kysely';
import { beforeAll, describe, expect, it } from 'vitest';
import { byHand, type HandFrame } from '#core/bursts/byHand';
import { stepWords } from '#core/ledger/told';
import { HOUSE } from '#core/sight/viewer';
import { NO_TERM_RULES } from '#core/terms/rules';
import { planSchema } from '#core/intake/plan';
import { burstByHand } from '#server/lists/burstsByHand';
import { addCollection, addItems, removeCollection } from '#server/collections/collections';
import { undo } from '#server/deeds/undo';
import { forgetPlan, savedPlans, savePlan } from '#server/intake/plan/plans';
import { ledger, operationSteps, type LedgerLine } from '#server/ledger/ledger';
import { setHouseRules, setTermRules } from '#server/lists/rules';
import { forgetPattern, keepPattern, keptPatterns } from '#server/naming/kept';
import { houseRules } from '#server/records/rules';
import { openRoom, renewRoom, revokeRoom, roomOfToken } from '#server/rooms/rooms';
import { asSeen } from '#server/sight/seen';
import { termRules } from '#server/terms/rules';
import { addPerson } from '#server/auth/people';
import { NOBODY, useArchive } from '../support/archive';
import { makeItems } from '../support/made';

/** Rooms, bursts by hand, patterns, plans and rules: entries of one journal, told and taken back like all others. */
const archive = useArchive({ worker: false });
const db = () => archive.house.db;
let ids: string[] = [];
const BY = { id: null, viewer: HOUSE };
const last = async (): Promise<LedgerLine> => (await ledger(db(), 0, 1))[0]!;
const undoLast = async (partly = false): Promise<string> =>
  undo(db(), null, (await last()).id, partly);
const told = async () =>
  (await operationSteps(db(), HOUSE, (await last()).id)).map(({ before, after }) =>
    stepWords(before, after),
  );
const clash = { code: 'conflict' };

beforeAll(async () => {
  ids = (await makeItems(archive)).map(({ id }) => id);
  for (const [at, id] of ids.slice(0, 5).entries())
    await sql`update item set taken_from = ${`2026-09-12T10:00:0${at}`}, taken_to = ${`2026-09-12T10:00:0${at}`} where id = ${id}`.execute(
      db(),
    );
});

describe('a reading room', () => {
  const closed = { code: 'room-closed' };
  const inAnHour = () => new Date(Date.now() + 3_600_000);
  const open = async (collectionId: string) =>
    openRoom(db(), null, {
      collectionId,
      title: 'Dress rehearsal',
      greeting: 'Hello',
      sizes: ['2048'],
      expiresAt: inAnHour(),
    });

  it('is opened, given a new link, closed: each noted, none with its token, and taken back', async () => {
    const collection = await addCollection(db(), null, 'For the printer');
    const { id, token } = await open(collection);
    expect(await last()).toMatchObject({
      kind: 'rooms',
      summary: 'Opened the reading room “Dress rehearsal”',
    });
    expect(await told()).toEqual([{ before: 'closed', after: 'open' }]);
    const opened = await last();
    const fresh = await renewRoom(db(), null, id);
    expect(await told()).toEqual([{ before: 'the link before', after: 'a new link' }]);
    await expect(roomOfToken(db(), token)).rejects.toMatchObject(closed);
    const { rows } = await sql<{
      text: string;
    }>`select string_agg(before::text || after::text, '') as text
      from operation_step`.execute(db());
    expect(rows[0]!.text).not.toContain(token);
    expect(rows[0]!.text).not.toContain(fresh);
    // Opening it cannot be taken back while a later change stands.
    await expect(undo(db(), null, opened.id)).rejects.toMatchObject(clash);
    await undoLast();
    expect((await roomOfToken(db(), token)).id).toBe(id);
    await expect(roomOfToken(db(), fresh)).rejects.toMatchObject(closed);
    await revokeRoom(db(), null, id);
    await expect(roomOfToken(db(), token)).rejects.toMatchObject(closed);
    await expect(revokeRoom(db(), null, id)).rejects.toMatchObject({ code: 'not-found' });
    await undoLast();
    expect(await roomOfToken(db(), token)).toMatchObject({ greeting: 'Hello', sizes: ['2048'] });
    await undo(db(), null, opened.id);
    await expect(roomOfToken(db(), token)).rejects.toMatchObject(closed);
  });

  it('closes with its collection and opens with it again, for those who open rooms', async () => {
    const collection = await addCollection(db(), null, 'Let go of');
    await addItems(db(), NOBODY, collection, asSeen(ids.slice(0, 2)));
    const { token } = await open(collection);
    await removeCollection(db(), NOBODY, collection);
    await expect(roomOfToken(db(), token)).rejects.toMatchObject(closed);
    const gone = await last();
    const id = await addPerson(db(), {
      email: 'bea@fieldhouse.example',
      name: 'Bea',
      role: 'contributor',
      password: 'twelve letters at least',
    });
    await expect(undo(db(), id, gone.id)).rejects.toMatchObject({ code: 'not-allowed' });
    await undo(db(), null, gone.id);
    expect((await roomOfToken(db(), token)).collectionId).toBe(collection);
  });
});

describe('a burst by hand', () => {
  const stands = async (): Promise<string[]> => {
    const { rows } = await sql<{
      id: string;
      burst: string | null;
      size: number;
      lead: boolean;
    }>`select id, burst, burst_size as size, burst_lead as lead from item where id = any(${ids.slice(0, 5)}::uuid[])`.execute(
      db(),
    );
    const names = [...new Set(rows.map(({ burst }) => burst).filter(Boolean))];
    return ids.slice(0, 5).map((id) => {
      const row = rows.find((one) => one.id === id)!;
      return row.burst ? `${names.indexOf(row.burst)}/${row.size}${row.lead ? ' lead' : ''}` : '-';
    });
  };

  it('is folded, split, put first, taken apart, and every step taken back', async () => {
    const states = [await stands()];
    const act = async (which: number[], how: 'fold' | 'unfold' | 'first'): Promise<number> => {
      const changed = await burstByHand(db(), BY, asSeen(which.map((at) => ids[at]!)), how);
      states.push(await stands());
      return changed;
    };
    expect(await act([1, 0, 2, 3], 'fold')).toBe(4);
    expect(states.at(-1)!.map((one) => one.slice(1))).toEqual(['/4', '/4 lead', '/4', '/4', '']);
    expect(await last()).toMatchObject({
      kind: 'bursts',
      summary: 'Put 4 frames together as a burst',
      total: 4,
    });
    expect(await told()).toContainEqual({ before: 'alone', after: 'in a burst' });
    // Whoever stood for the others leaves: the first of the rest does now, and that is told, too.
    expect(await act([1, 4], 'fold')).toBe(3);
    expect((await stands()).map((one) => one.slice(1))).toEqual([
      '/3 lead',
      '/2 lead',
      '/3',
      '/3',
      '/2',
    ]);
    expect(await act([3], 'first')).toBe(3);
    expect(await act([0, 4], 'unfold')).toBe(5);
    expect(await stands()).toEqual(['-', '-', '-', '-', '-']);
    states.pop();
    for (const before of states.reverse()) {
      const [newest] = (await ledger(db(), 0, 50, { kind: 'bursts' })).filter(
        ({ undone, undoes }) => !undone && undoes === null,
      );
      await undo(db(), null, newest!.id);
      expect((await stands()).map((one) => one.slice(1))).toEqual(
        before.map((one) => one.slice(1)),
      );
    }
  });

  it('leaves alone what another folded otherwise since', async () => {
    await burstByHand(db(), BY, asSeen([ids[0]!, ids[1]!, ids[2]!]), 'fold');
    const first = await last();
    await burstByHand(db(), BY, asSeen([ids[2]!, ids[3]!]), 'fold');
    await expect(undo(db(), null, first.id)).rejects.toMatchObject(clash);
    await undo(db(), null, first.id, true);
    expect((await stands()).map((one) => one.slice(1))).toEqual(['', '', '/2 lead', '/2', '']);
  });

  it('always has one frame to stand for it', () => {
    const frames = Array.from({ length: 40 }, (_, at): HandFrame => ({
      id: `f${at}`,
      entry: { burst: `b${at % 7}`, lead: at < 7, reason: null, byHand: false },
    }));
    for (let seed = 1; seed < 200; seed += 1) {
      const taken = frames.filter((_, at) => (at * seed) % 5 === 0).map(({ id }) => id);
      const now = byHand(frames, taken, 'fold', 'new');
      const groups = new Map<string, number>();
      for (const { id, entry } of frames) {
        const { burst, lead } = now.get(id) ?? entry;
        groups.set(burst!, (groups.get(burst!) ?? 0) + Number(lead));
      }
      expect([...groups.values()].every((leads) => leads === 1)).toBe(true);
    }
  });
});

describe('what is kept under a name', () => {
  it('is kept, replaced, forgotten, and comes back as it was', async () => {
    const wish = { purpose: 'naming' as const, name: 'By day', pattern: '{name}', choices: {} };
    const id = await keepPattern(db(), null, wish);
    await keepPattern(db(), null, { ...wish, name: 'by DAY', pattern: '{counter 01}-{name}' });
    expect(await last()).toMatchObject({ kind: 'patterns', total: 1 });
    await forgetPattern(db(), null, id);
    expect(await keptPatterns(db(), 'naming')).toEqual([]);
    await undoLast();
    expect(await keptPatterns(db(), 'naming')).toMatchObject([{ id, name: 'by DAY' }]);

    const kept = {
      mode: 'copy' as const,
      placeId: null,
      plan: planSchema.parse({ filing: '', naming: '{name}' }),
    };
    const plan = await savePlan(db(), null, 'Cards', kept);
    await savePlan(db(), null, 'cards', { ...kept, mode: 'move' });
    await undoLast();
    expect(await savedPlans(db())).toMatchObject([{ id: plan, name: 'Cards', mode: 'copy' }]);
    await forgetPlan(db(), null, plan);
    expect(await savedPlans(db())).toEqual([]);
    await undoLast();
    expect(await savedPlans(db())).toMatchObject([{ id: plan, mode: 'copy' }]);
    expect(await last()).toMatchObject({ kind: 'plans' });
  });
});

describe('a rule of the house', () => {
  const title = { field: 'title' as const, required: true, allowed: [], like: '' };
  const caption = { ...title, field: 'caption' as const };

  it('is set, told and taken back by itself', async () => {
    await setHouseRules(db(), null, [title]);
    expect(await told()).toEqual([{ before: 'Title: no rule', after: 'required' }]);
    const first = await last();
    await setHouseRules(db(), null, [title, caption]);
    await undo(db(), null, first.id);
    expect(await houseRules(db())).toEqual([caption]);
    await undoLast();
    expect((await houseRules(db())).map(({ field }) => field).sort()).toEqual(['caption', 'title']);
  });

  it('is not overwritten by whoever saw an older one', async () => {
    await setHouseRules(db(), null, [title]);
    const seen = await houseRules(db());
    await setHouseRules(db(), null, [{ ...title, like: 'A*' }], seen);
    await expect(setHouseRules(db(), null, [{ ...title, like: 'B*' }], seen)).rejects.toMatchObject(
      clash,
    );
    // Somebody else's rule of another field is no hindrance, and stays.
    await setTermRules(db(), null, { ...NO_TERM_RULES, broader: true });
    expect((await termRules(db())).broader).toBe(true);
    await undoLast();
    expect(await termRules(db())).toEqual(NO_TERM_RULES);
  });
});
