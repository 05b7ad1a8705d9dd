/** A text whose last number is so much higher, as many digits wide at least: `A-07` by 1 is `A-08`. A text without one stays. */
export const countedUp = (text: string, by: number): string =>
  text.replace(/(\d{1,15})(\D*)$/, (_, digits: string, rest: string) => {
    const next = String(Number(digits) + by);
    return next.padStart(digits.length, '0') + rest;
  });
