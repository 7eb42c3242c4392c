<script lang="ts">
  /** What is known of the item: of its file, and what somebody has said of it in a table of facts. */
  import type { Opened } from './opened.svelte';

  let { opened }: { opened: Opened } = $props();
  const file = $derived(opened.surface.facts());
  // (a packet that was kept before there were any has none)
  const own = $derived(Object.entries(opened.packet.facts ?? {}));
</script>

<details class="facts">
  <summary title="what is known of this item">
    <span class="num">{file.slice(0, 3).join(' · ')}</span>{#each own.slice(0, 2) as [key, value] (key)}<span class="soft">
        · {key}
        {value}</span
      >{/each}
  </summary>
  <dl>
    {#each own as [key, value] (key)}<dt>{key}</dt>
      <dd>{value}</dd>{/each}
    <dt>file</dt>
    <dd class="num">{file.join(' · ')}</dd>
  </dl>
</details>

<style>
  .facts {
    padding: 5px 12px;
    font-size: 12px;
    border-bottom: 1px solid var(--line);
  }
  summary {
    cursor: pointer;
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  dl {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 2px 10px;
    margin: 5px 0 2px;
  }
  dt {
    color: var(--soft);
  }
  dd {
    margin: 0;
    overflow-wrap: anywhere;
  }
</style>
