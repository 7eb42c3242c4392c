import adapter from '@sveltejs/adapter-static';
import { vitePreprocess } from '@sveltejs/vite-plugin-svelte';

/** @type {import('@sveltejs/kit').Config} */
export default {
  preprocess: vitePreprocess(),
  kit: {
    adapter: adapter({ fallback: 'app.html', pages: 'build', assets: 'build' }),
    paths: { relative: false },
    // Laravel sends this policy as a header (SpaController); the hash of the start-up script changes with every build.
    csp: {
      mode: 'hash',
      directives: {
        'default-src': ['none'],
        'script-src': ['self'],
        'style-src': ['self'],
        // the router's announcer for screen readers carries one static style attribute
        'style-src-attr': ['unsafe-hashes', 'sha256-S8qMpvofolR8Mpjy4kQvEm7m1q8clzU4dfDH0AmvZjo='],
        'img-src': ['self', 'blob:', 'data:'],
        'font-src': ['self'],
        'connect-src': ['self'],
        'worker-src': ['self'],
        'media-src': ['self'],
        'base-uri': ['none'],
        'form-action': ['self'],
        'object-src': ['none']
      }
    }
  }
};
