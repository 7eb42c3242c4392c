<script lang="ts">
  /** A message of the server in which the pictures it names are links to them. */
  import { itemsNamed, pieces } from '$lib/ui/named';
  import { useProject } from '$lib/state/context';

  let { text }: { text: string } = $props();
  const project = useProject();
</script>

{#each pieces(text) as piece, i (i)}{#if piece.name}<a class="plain" href={itemsNamed(project.id, piece.name)}>{piece.text}</a
    >{:else}{piece.text}{/if}{/each}
