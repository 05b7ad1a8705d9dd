import { invalidate } from '$app/navigation';
import { navigating } from '$app/state';

/**
 * Load again what depends on a key, after any page change under way.
 *
 * SvelteKit gives up a navigation when something is invalidated meanwhile: a message from the
 * server would swallow the person's key or click.
 */
export async function freshen(key: `mindful:${string}`): Promise<void> {
  let waited: Promise<void> | null = null;
  while (navigating.complete && navigating.complete !== waited) {
    waited = navigating.complete;
    await waited.catch(() => undefined);
  }
  await invalidate(key);
}
