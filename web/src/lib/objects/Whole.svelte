<script lang="ts">
  /** A text as a whole, to be read; of a long one its beginning. */
  import { document } from '$lib/api/bytes';

  let { path, width, height, size }: { path: string; width: number; height: number; size: number } = $props();

  /** Characters shown at most: what is asked about a text is told by its beginning, or on the bench. */
  const MOST = 6000;
  let body = $state<string | null>(null);
  let failed = $state('');
  $effect(() => {
    const stop = new AbortController();
    body = null;
    failed = '';
    document<{ body: string }>(path, stop.signal).then(
      (sent) => (body = sent.body.length > MOST ? `${sent.body.slice(0, MOST)}…` : sent.body),
      (e: Error) => {
        if (!stop.signal.aborted) failed = e.message;
      }
    );
    // what comes late is not for the next one
    return () => stop.abort();
  });
</script>

<div
  class="whole"
  dir="auto"
  style:width="{width}px"
  style:height="{height}px"
  style:font-size="{size}px"
  data-drawn={body === null ? 'no' : 'yes'}
>
  {failed || (body ?? '')}
</div>

<style>
  .whole {
    background: #171b1a;
    color: #e9e4d8;
    padding: 1em max(1em, calc(50% - 21em));
    overflow: auto;
    line-height: 1.55;
    white-space: pre-wrap;
    overflow-wrap: anywhere;
    box-sizing: border-box;
  }
</style>
