<script lang="ts">
  import '@fontsource-variable/hanken-grotesk';
  import '@fontsource/ibm-plex-mono/400.css';
  import '@fontsource/ibm-plex-mono/500.css';
  import '../app.css';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { session } from '$lib/state/session.svelte';
  import { themed } from '$lib/state/theme.svelte';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import SignInForm from '$lib/ui/SignInForm.svelte';
  import { Modal } from 'flowbite-svelte';
  import { onMount } from 'svelte';

  let { children } = $props();
  let error = $state('');

  const open = $derived(/^\/(sign-in|setup|join|password)/.test(page.url.pathname));
  const onBench = $derived(/^\/p\/\d+\/(bench|sweep)/.test(page.url.pathname));
  const theme = $derived(session.theme === 'auto' ? (onBench ? 'dusk' : 'paper') : session.theme);

  onMount(async () => {
    try {
      await session.load();
    } catch (e) {
      error = (e as Error).message;
    }
  });
  $effect(() => themed.apply(theme));
  $effect(() => {
    if (!session.loaded) return;
    if (session.firstRun && page.url.pathname !== '/setup') void goto('/setup');
    else if (!session.firstRun && session.user === null && !open)
      void goto(`/sign-in?to=${encodeURIComponent(page.url.pathname + page.url.search)}`);
  });
</script>

{#if error !== ''}
  <main class="away"><ErrorNote message={error} /><button class="act" onclick={() => location.reload()}>Try again</button></main>
{:else if session.loaded && (session.user !== null || open)}
  {@render children()}
{/if}

{#if session.ended}
  <Modal title="Your session has ended" open dismissable={false} size="xs" permanent>
    <p class="mb-3">Nothing is lost: what you did is kept in this browser and is sent as soon as you sign in again.</p>
    <SignInForm />
  </Modal>
{/if}

<style>
  .away {
    max-width: 480px;
    margin: 15vh auto;
  }
</style>
