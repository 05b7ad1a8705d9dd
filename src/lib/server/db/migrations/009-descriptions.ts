/** A file whose picture is held, but described differently: which fields differ, and that they may be taken over. */
export const descriptions = `
alter table accession_entry drop constraint accession_entry_decision_check;
alter table accession_entry add constraint accession_entry_decision_check
  check (decision in ('new', 'again', 'version', 'describe'));
alter table scan_file add column held_differs text[] not null default '{}';
`;
