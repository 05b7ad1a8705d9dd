import { sveltekit } from '@sveltejs/kit/vite';
import { defineConfig } from 'vite';

export default defineConfig({
  plugins: [sveltekit()],
  build: { chunkSizeWarningLimit: 900, reportCompressedSize: false },
  // Its entry points are folders, which Node's own loader of modules refuses: bundled instead.
  ssr: { noExternal: ['@atlaskit/pragmatic-drag-and-drop'] },
});
