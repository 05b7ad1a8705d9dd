/** The search part of an address with what a picture is held against; with null without it. */
export function withAgainst(search: string, number: string | null): string {
  const wish = new URLSearchParams(search);
  if (number === null) wish.delete('against');
  else wish.set('against', number);
  return wish.size > 0 ? `?${wish.toString()}` : '';
}
