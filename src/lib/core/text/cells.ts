/** Spreadsheets read a cell that begins so as a formula: it is told as text. */
export const harmless = (text: string): string => (/^[=+\-@\t\r]/.test(text) ? `'${text}` : text);
