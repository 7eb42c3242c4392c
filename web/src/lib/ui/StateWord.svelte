<script lang="ts">
  /** A state as a word and a shape, never only a colour. */
  let { state, count }: { state: string; count?: number } = $props();
  const shapes: Record<string, string> = {
    new: 'M6 1.5a4.5 4.5 0 1 0 0 9 4.5 4.5 0 0 0 0-9Zm0 1.6a2.9 2.9 0 1 1 0 5.8 2.9 2.9 0 0 1 0-5.8Z',
    waiting: 'M1.5 5h9v2h-9z',
    open: 'M6 1a5 5 0 1 0 0 10V1Z',
    returned: 'M5 1 0.6 5 5 9V6.4h3.4V11h2.2V3.8H5Z',
    parked: 'M2.5 1.5h2.4v9H2.5zm4.6 0h2.4v9H7.1z',
    submitted: 'M6 1 11 6H8v5H4V6H1Z',
    accepted: 'M4.6 10.2.8 6.3l1.5-1.5 2.3 2.3 5.1-5.4 1.5 1.5Z',
    archived: 'M1 1.5h10v3H1zm1 4h8v5H2z'
  };
</script>

<span class="state" data-state={state}>
  <svg width="11" height="11" viewBox="0 0 12 12" aria-hidden="true"><path d={shapes[state] ?? shapes.new} fill="currentColor" /></svg>
  {state}{#if count !== undefined}<span class="num">&nbsp;{count}</span>{/if}
</span>

<style>
  .state {
    display: inline-flex;
    align-items: center;
    gap: 4px;
    white-space: nowrap;
    color: var(--soft);
  }
  .state[data-state='accepted'] {
    color: var(--good);
  }
  .state[data-state='returned'] {
    color: var(--accent-text);
  }
  .state[data-state='open'],
  .state[data-state='submitted'] {
    color: var(--ink);
  }
</style>
