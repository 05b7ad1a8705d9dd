export const THEMES = ['light', 'dim', 'system'] as const;
export type Theme = (typeof THEMES)[number];

const KEY = 'mindful-theme';

/** What this browser was told; light where it was not. */
export function readTheme(): Theme {
  const kept = localStorage.getItem(KEY);
  return THEMES.find((theme) => theme === kept) ?? 'light';
}

export function applyTheme(theme: Theme): void {
  document.documentElement.dataset['theme'] = theme;
  localStorage.setItem(KEY, theme);
}
