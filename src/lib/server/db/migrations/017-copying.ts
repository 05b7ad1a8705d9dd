/** Copies laid elsewhere as steps of the ledger, and what lies beside them. */
export const copying = `
-- What was copied along with a second copy: its sidecar, its parts.
alter table file drop constraint file_role_check,
  add check (role in ('original', 'companion', 'sidecar', 'part', 'second-copy', 'beside-copy'));
alter table operation_step drop constraint operation_step_action_check,
  add check (action in ('rename', 'record', 'rewrite', 'folder', 'move', 'entry', 'copy', 'uncopy'));
-- Steps of moves before this position were begun.
alter table operation add column begun integer not null default 0;
`;
