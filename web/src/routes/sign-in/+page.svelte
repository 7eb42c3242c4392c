<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { session } from '$lib/state/session.svelte';
  import Door from '$lib/ui/Door.svelte';
  import SignInForm from '$lib/ui/SignInForm.svelte';

  // only ever to a page of this app
  const to = $derived(/^\/(?!\/)/.test(page.url.searchParams.get('to') ?? '') ? (page.url.searchParams.get('to') ?? '/') : '/');
  $effect(() => {
    if (session.user !== null) void goto(to);
  });
</script>

<Door title="Sign in"><SignInForm done={() => goto(to)} /></Door>
