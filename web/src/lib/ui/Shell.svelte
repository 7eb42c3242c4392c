<script lang="ts">
  /** A management page: the rail on the left with the places in the order of the work, the page beside it. */
  import { page } from '$app/state';
  import { session } from '$lib/state/session.svelte';
  import type { ProjectState } from '$lib/state/project.svelte';
  import {
    House,
    ListChecks,
    LogOut,
    PackageCheck,
    PencilRuler,
    Send,
    Sparkle,
    SunMoon,
    Upload,
    User,
    Users,
    ChartColumn
  } from '@lucide/svelte';

  let {
    title,
    project,
    full = false,
    actions,
    children
  }: {
    title: string;
    project?: ProjectState;
    /** the page fills the window and scrolls by itself */
    full?: boolean;
    actions?: import('svelte').Snippet;
    children: import('svelte').Snippet;
  } = $props();

  const base = $derived(project ? `/p/${project.id}` : '');
  const places = $derived(
    project
      ? [
          { href: base, word: 'Progress', icon: ChartColumn, ability: 'figures.see' },
          { href: `${base}/items`, word: 'Items', icon: null, ability: 'items.see' },
          { href: `${base}/describe`, word: 'Describe', icon: PencilRuler, ability: 'project.manage' },
          { href: `${base}/bring-in`, word: 'Bring in', icon: Upload, ability: 'project.manage' },
          { href: `${base}/hand-out`, word: 'Hand out', icon: Send, ability: 'project.manage' },
          { href: `${base}/help`, word: 'Help', icon: Sparkle, ability: 'project.manage' },
          { href: `${base}/check`, word: 'Check', icon: ListChecks, ability: 'review' },
          { href: `${base}/sheet`, word: 'Contact sheet', icon: null, ability: 'items.see' },
          { href: `${base}/sweep`, word: 'Sweep', icon: null, ability: 'label' },
          { href: `${base}/release`, word: 'Release', icon: PackageCheck, ability: 'project.manage' }
        ].filter((place) => project.may(place.ability))
      : []
  );
</script>

<svelte:head><title>{title} · Skeno</title></svelte:head>
<div class="shell">
  <nav class="rail" aria-label="places">
    <a class="brand" href="/"><img src="/favicon.svg" alt="" width="22" height="22" />Skeno</a>
    <a href="/" class:here={page.url.pathname === '/'}><House size={16} strokeWidth={1.75} />My work</a>
    {#if project?.project}
      <div class="name" title={project.project.group}>{project.project.name}</div>
      {#each places as place (place.href)}
        <a
          href={place.href}
          class:here={page.url.pathname === place.href || (place.href !== base && page.url.pathname.startsWith(`${place.href}/`))}
          aria-current={page.url.pathname === place.href ? 'page' : undefined}
        >
          {#if place.icon}<place.icon size={16} strokeWidth={1.75} />{:else}<span class="under"></span>{/if}{place.word}
        </a>
      {/each}
    {/if}
    <div class="foot">
      {#if project?.may('project.manage')}<a href="{base}/people" class:here={page.url.pathname === `${base}/people`}
          ><Users size={16} strokeWidth={1.75} />People and settings</a
        >{/if}
      {#if session.user?.is_owner}<a href="/users" class:here={page.url.pathname === '/users'}
          ><Users size={16} strokeWidth={1.75} />Installation</a
        >{/if}
      <a href="/account" class:here={page.url.pathname === '/account'}><User size={16} strokeWidth={1.75} />{session.user?.name ?? ''}</a>
      <div class="small">
        <button
          onclick={() => session.setTheme(session.theme === 'dusk' ? 'paper' : 'dusk')}
          title="paper or dusk"
          aria-label="switch between paper and dusk"><SunMoon size={16} strokeWidth={1.75} /></button
        >
        <button onclick={() => session.signOut()} title="sign out" aria-label="sign out"><LogOut size={16} strokeWidth={1.75} /></button>
      </div>
    </div>
  </nav>
  <main class:full>
    <header>
      <h1>{title}</h1>
      <div class="actions">{@render actions?.()}</div>
    </header>
    {@render children()}
  </main>
</div>

<style>
  .shell {
    display: grid;
    grid-template-columns: 196px minmax(0, 1fr);
    min-height: 100vh;
  }
  .rail {
    background: var(--sunk);
    border-right: 1px solid var(--line);
    padding: 12px 10px;
    display: flex;
    flex-direction: column;
    gap: 1px;
    position: sticky;
    top: 0;
    height: 100vh;
    overflow: auto;
  }
  .rail a {
    display: flex;
    gap: 9px;
    align-items: center;
    padding: 6px 9px;
    border-radius: 4px;
    color: var(--ink);
    text-decoration: none;
  }
  .rail a:hover {
    background: color-mix(in srgb, var(--primary) 10%, transparent);
  }
  .rail a.here {
    background: color-mix(in srgb, var(--primary) 16%, transparent);
    font-weight: 600;
  }
  .rail .brand {
    font-weight: 700;
    font-size: 17px;
    margin-bottom: 8px;
  }
  .name {
    margin: 16px 9px 5px;
    font-weight: 650;
    color: var(--accent-text);
    overflow-wrap: anywhere;
  }
  .foot {
    margin-top: auto;
    padding-top: 20px;
  }
  .small {
    display: flex;
    gap: 4px;
    padding: 4px 6px;
  }
  .small button {
    padding: 5px;
    border-radius: 4px;
    color: var(--soft);
    cursor: pointer;
  }
  main {
    padding: 20px 28px 60px;
    max-width: 1240px;
    width: 100%;
  }
  .under {
    width: 16px;
  }
  main.full {
    padding: 14px 18px 0;
    max-width: none;
    height: 100vh;
    display: grid;
    grid-template-rows: auto minmax(0, 1fr);
  }
  .full header {
    margin-bottom: 8px;
  }
  header {
    display: flex;
    align-items: center;
    justify-content: space-between;
    gap: 16px;
    margin-bottom: 14px;
  }
  .actions {
    display: flex;
    gap: 8px;
    align-items: center;
  }
</style>
