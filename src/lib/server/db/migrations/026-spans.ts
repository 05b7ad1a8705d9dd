/** Spans are a kind of item of their own; one may be a marker, and carries a mark. */
export const spans = `
alter table item
  add column is_marker boolean not null default false,
  add column mark text not null default '';
update item set kind = 'span' where of_id is not null and kind <> 'span';
alter table item add constraint item_span_kind check ((of_id is not null) = (kind = 'span'));
`;
