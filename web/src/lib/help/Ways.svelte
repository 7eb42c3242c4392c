<script lang="ts">
  /** The two ways to have help: models that look at pictures, prompts that are asked about texts. */
  import { page } from '$app/state';

  let { project }: { project: number } = $props();
  const ways = $derived([
    { href: `/p/${project}/help`, word: 'models for pictures' },
    { href: `/p/${project}/help/prompts`, word: 'prompts for texts' }
  ]);
</script>

<nav class="ways" aria-label="kinds of help">
  {#each ways as way (way.href)}<a href={way.href} aria-current={page.url.pathname === way.href ? 'page' : undefined}>{way.word}</a>{/each}
</nav>

<style>
  .ways {
    display: flex;
    gap: 18px;
  }
  a {
    color: var(--soft);
    text-decoration: none;
    border-bottom: 2px solid transparent;
    padding: 2px 0;
  }
  a[aria-current] {
    color: var(--ink);
    border-color: var(--primary);
    font-weight: 600;
  }
</style>
