<script lang="ts">
  /** What waits for a manager's decision, each a link to where it is made. */
  import type { Schemas } from '$lib/api/client';
  type Need = Schemas['Work']['needs'][number];
  let { needs, named }: { needs: readonly Need[]; named: boolean } = $props();

  const words: Record<Need['kind'], [one: string, many: string, at: (id: number) => string]> = {
    parked: ['item is parked', 'items are parked', (id) => `/p/${id}/items?f=state:parked`],
    returned: ['returned item lies untouched', 'returned items lie untouched', (id) => `/p/${id}/items?f=state:returned`],
    proposals: ['proposal waits for an answer', 'proposals wait for an answer', (id) => `/p/${id}/describe#proposals`],
    questions: ['question waits for an answer', 'questions wait for an answer', (id) => `/p/${id}/check#questions`],
    imports: ['import has failed', 'imports have failed', (id) => `/p/${id}/bring-in`],
    releases: ['release has failed', 'releases have failed', (id) => `/p/${id}/release`],
    chores: ['long piece of work has failed', 'long pieces of work have failed', (id) => `/p/${id}/hand-out`]
  };
  const age = (since: string): string => {
    const hours = Math.max(0, (Date.now() - Date.parse(since)) / 3_600_000);
    const n = hours < 48 ? Math.round(hours) : Math.round(hours / 24);
    const unit = hours < 48 ? 'hour' : 'day';
    return n === 0 ? 'just now' : `for ${n} ${unit}${n === 1 ? '' : 's'}`;
  };
</script>

<ul>
  {#each needs as n (`${n.project.id} ${n.kind}`)}
    {@const [one, many, at] = words[n.kind]}
    <li>
      <a href={at(n.project.id)}><span class="num">{n.count}</span> {n.count === 1 ? one : many}</a>
      {#if named}<span class="soft">in {n.project.name}</span>{/if}
      <span class="soft age">{n.count === 1 ? '' : 'the oldest '}{age(n.since)}</span>
    </li>
  {/each}
</ul>

<style>
  li {
    display: flex;
    gap: 8px;
    align-items: baseline;
    padding: 4px 0;
    border-top: 1px solid var(--line);
  }
  li:first-child {
    border-top: 0;
  }
  a {
    color: var(--ink);
    text-decoration: underline;
    text-decoration-color: var(--edge);
    text-underline-offset: 3px;
  }
  .age {
    margin-left: auto;
    font-size: 13px;
    white-space: nowrap;
  }
</style>
