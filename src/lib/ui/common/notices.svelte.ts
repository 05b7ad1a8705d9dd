/** Short words about what was done, with Undo beside them where it can be undone. */
export interface Notice {
  id: number;
  text: string;
  kind: 'done' | 'wrong';
  action?: { label: string; run: () => void | Promise<void> } | undefined;
}

const STAYS_MS = 7000;
let next = 1;

export const notices = $state<Notice[]>([]);

export function dismiss(id: number): void {
  const at = notices.findIndex((notice) => notice.id === id);
  if (at >= 0) notices.splice(at, 1);
}

function say(kind: Notice['kind'], text: string, action?: Notice['action']): void {
  const id = next;
  next += 1;
  notices.push({ id, text, kind, action });
  if (notices.length > 4) notices.shift();
  setTimeout(() => dismiss(id), STAYS_MS);
}

export const sayDone = (text: string, action?: Notice['action']): void => say('done', text, action);

/** Say what went wrong, in its own sentence. */
export const sayWrong = (error: unknown): void =>
  say('wrong', error instanceof Error ? error.message : String(error));
