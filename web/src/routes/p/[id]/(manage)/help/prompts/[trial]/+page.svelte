<script lang="ts">
  /** Side by side: what is accepted, what a version said, perhaps what one before it said; from one difference to the next by keys. */
  import { api, ask } from '$lib/api/client';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import type { Row } from '$lib/keys/caps';
  import Deck from '$lib/keys/Deck.svelte';
  import { press, type Keys, type Layer } from '$lib/keys/layers';
  import { Beside, type Which } from '$lib/prompts/beside.svelte';
  import { depthOf, lineOf, linesOf, type Difference } from '$lib/prompts/differences';
  import Lined from '$lib/prompts/Lined.svelte';
  import { useProject } from '$lib/state/context';
  import { parts } from '$lib/state/project.svelte';
  import { session } from '$lib/state/session.svelte';
  import { readable } from '$lib/text/blocks';
  import { Offsets } from '$lib/text/offsets';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import Marker from '$lib/ui/Marker.svelte';
  import Shell from '$lib/ui/Shell.svelte';
  import { say, type Answer } from '$lib/words/codebook';
  import { Words } from '$lib/words/words.svelte';
  import { ArrowLeft, ArrowRight, ChevronsLeft, ChevronsRight, Filter, Undo2 } from '@lucide/svelte';
  import { onMount } from 'svelte';

  const project = useProject();
  const words = new Words(project.id);
  const number = (of: string | null | undefined) => (of && /^\d{1,15}$/.test(of) ? Number(of) : null);
  const against = number(page.url.searchParams.get('against'));
  const beside = new Beside(project.id, number(page.params.trial) ?? 0, against);
  let message = $state('');

  onMount(() => {
    void (async () => {
      try {
        words.take(await ask(api.GET('/projects/{project}/codebook', parts(project.id))));
      } catch (e) {
        beside.error = (e as Error).message;
        return;
      }
      await beside.load(number(page.url.searchParams.get('item')));
    })();
    const timer = setInterval(() => {
      if (beside.goesOn) void beside.load();
    }, 1500);
    return () => {
      clearInterval(timer);
      beside.close();
    };
  });
  const back = `/p/${project.id}/help/prompts`;
  const offsets = $derived(beside.now ? new Offsets(beside.now.text) : null);
  const d = $derived(beside.difference);
  const look = $derived(d?.about === 'span' ? Math.min(d.known?.start ?? Infinity, d.said?.start ?? Infinity) : null);
  const quoted = (r: { start: number; end: number } | null) => {
    if (!r || !offsets) return '';
    const said = offsets.words(r.start, Math.min(r.end, r.start + 80));
    return `“${readable(said)}${r.end > r.start + 80 ? '…' : ''}”`;
  };
  const question = (key: string) => words.document.attributes?.find((a) => a.key === key);
  const tag = (key: string) => words.itemTags.find((t) => t.key === key)?.name ?? key;
  function answered(key: string, answer: Answer | null): string {
    if (answer === null) return 'not answered';
    const asked = question(key);
    return asked ? say(asked, answer) : JSON.stringify(answer);
  }
  /** the same as long as it is */
  const written = (key: string, answer: Answer | null): string =>
    answer !== null && 'value' in answer && typeof answer.value === 'string' && question(key)?.type === 'text'
      ? answer.value
      : answered(key, answer);
  const ways = { missing: 'missing', extra: 'too much', bounded: 'bounded otherwise' } as const;
  function told(of: Difference): string {
    if (of.about === 'question')
      return `${question(of.key)?.name ?? of.key}: accepted ${answered(of.key, of.known)}, said ${answered(of.key, of.said)}`;
    if (of.about === 'tag') return `${tag(of.key)}: ${of.known ? 'accepted, not said' : 'said, not accepted'}`;
    const name = words.nameOf(of.class);
    if (of.way === 'bounded') return `${name}, bounded otherwise: accepted ${quoted(of.known)}, said ${quoted(of.said)}`;
    return `${name}, ${ways[of.way]}: ${quoted(of.known ?? of.said)}`;
  }
  /** whose difference it is, where two versions are held against each other */
  const whose = $derived.by(() => {
    const was = beside.trial?.against?.trial.number;
    if (!d || was === undefined) return '';
    return d.of === 'both' ? 'in both' : d.of === 'now' ? 'new' : 'put right';
  });
  const trial = $derived(beside.trial);
  const columns = $derived.by(() => {
    const { now, before } = beside;
    if (!now) return [];
    const here = (of: 'known' | 'said', whose: Difference['of']) =>
      d && (of === 'known' || d.of === 'both' || d.of === whose) ? lineOf(d, of) : null;
    return [
      { key: 'known', title: 'accepted', text: now, lines: linesOf(now, 'known'), here: here('known', 'both'), side: 'known' as const },
      ...(before
        ? [
            {
              key: 'before',
              title: `said by ${trial?.against?.trial.prompt}, version ${trial?.against?.trial.number}`,
              text: before,
              lines: linesOf(before, 'said'),
              here: here('said', 'before'),
              side: 'said' as const
            }
          ]
        : []),
      {
        key: 'now',
        title: `said by ${trial?.prompt}, version ${trial?.number}`,
        text: now,
        lines: linesOf(now, 'said'),
        here: here('said', 'now'),
        side: 'said' as const
      }
    ];
  });

  const deep = $derived(Math.max(0, ...columns.map((c) => depthOf(c.lines))));

  const whiches = $derived<Which[]>(against === null ? ['all', 'wrong'] : ['all', 'wrong', 'changed']);
  const whichWord: Record<Which, string> = { all: 'all texts', wrong: 'texts with differences', changed: 'texts that changed' };
  function turnWhich() {
    beside.show(whiches[(whiches.indexOf(beside.which) + 1) % whiches.length]!);
  }
  const none = $derived(beside.texts.length === 0 ? 'there is no text' : undefined);
  const rows = $derived<Row[]>([
    {
      name: 'differences',
      caps: [
        { code: 'KeyA', word: 'one back', icon: ArrowLeft, again: true, off: none, press: () => void beside.step(-1) },
        { code: 'KeyS', word: 'next one', icon: ArrowRight, again: true, off: none, press: () => void beside.step(1) },
        { code: 'KeyD', word: 'text back', icon: ChevronsLeft, again: true, off: none, press: () => void beside.turn(-1) },
        { code: 'KeyF', word: 'next text', icon: ChevronsRight, again: true, off: none, press: () => void beside.turn(1) },
        { code: 'KeyG', word: 'which texts', icon: Filter, hint: whichWord[beside.which], press: turnWhich }
      ]
    },
    {
      name: '',
      caps: [{ code: 'KeyZ', word: 'to the prompt', icon: Undo2, press: () => void goto(back) }]
    }
  ]);
  const layer: Layer = {
    press(e) {
      if (e.ctrlKey || e.metaKey || e.altKey) return false;
      if (e.code === 'ArrowRight') void beside.step(1);
      else if (e.code === 'ArrowLeft') void beside.step(-1);
      else if (e.code === 'ArrowDown') void beside.turn(1);
      else if (e.code === 'ArrowUp') void beside.turn(-1);
      else return false;
      return true;
    }
  };
  const keys: Keys = {
    layers: [layer],
    caps: () => rows.flatMap((r) => r.caps),
    bound: () => session.user?.settings.keys ?? {},
    say: (said) => (message = said)
  };
  let list: HTMLElement | undefined = $state();
  $effect(() => {
    void beside.item;
    list?.querySelector('[aria-current="true"]')?.scrollIntoView({ block: 'nearest' });
  });
  const sums = (t: (typeof beside.texts)[number]) =>
    [
      [t.missing, 'missing'],
      [t.extra, 'too much'],
      [t.bounded, 'bounded otherwise'],
      [t.wrong, 'answered otherwise']
    ]
      .filter(([n]) => Number(n) > 0)
      .map(([n, word]) => `${n} ${word}`)
      .join(', ');
</script>

<svelte:window onkeydown={(e) => !session.ended && press(e, keys)} />

<Shell title="Side by side" {project} full>
  {#snippet actions()}<a class="plain" href={back}
      >{trial ? `${trial.prompt}, version ${trial.number}` : 'the prompt'}{trial?.against
        ? `, against version ${trial.against.trial.number}`
        : ''}</a
    >{/snippet}
  <div class="beside">
    <div class="main">
      <nav class="texts" aria-label="texts" bind:this={list}>
        <div class="which">
          {#each whiches as w (w)}<button class="act link" aria-pressed={beside.which === w} onclick={() => beside.show(w)}
              >{whichWord[w]}</button
            >{/each}
        </div>
        {#each beside.texts as t (t.item)}
          {@const c = beside.changed(t.item)}
          <button class="text" aria-current={t.item === beside.item} onclick={() => beside.go(t.item)}>
            <span class="num">{t.path?.split('/').at(-1) ?? 'a text that is gone'}</span>
            <span class="soft"
              >{#if t.failed !== ''}failed{:else if beside.which === 'changed' && c}{c.better} right now, {c.worse} wrong now{:else}{sums(
                  t
                ) || 'all as accepted'}{/if}</span
            >
          </button>
        {:else}
          <p class="soft">{trial ? 'there are none' : ''}</p>
        {/each}
      </nav>
      <div class="text-side">
        <ErrorNote message={beside.error || message} />
        <p class="told" role="status" aria-label="difference">
          {#if d}
            {#if d.about === 'span'}<Marker marker={words.marker(d.class)} color={words.light(d.class)} size={12} />{/if}
            <span>{told(d)}</span>
            {#if whose}<b class="whose">{whose}</b>{/if}
            <span class="soft num">{beside.at + 1} of {beside.list.length}</span>
          {:else if beside.now}
            <span class="soft">{beside.now.failed !== '' ? beside.now.failed : 'all as accepted'}</span>
          {/if}
        </p>
        <div class="columns" style:--columns={columns.length}>
          {#each columns as c (c.key)}
            <section aria-label={c.title}>
              <h2>{c.title}</h2>
              <Lined text={c.text.text} lines={c.lines} here={c.here} {deep} {look} {words} label={c.title} />
              <dl>
                {#each Object.entries(c.text.answers) as [key, a] (key)}
                  {@const wrong = a.agreed === false && c.side === 'said'}
                  <div class:wrong class:at={d?.about === 'question' && d.key === key}>
                    <dt>{question(key)?.name ?? key}</dt>
                    <dd>{readable(written(key, a[c.side]))}</dd>
                  </div>
                {/each}
                {#each Object.entries(c.text.tags).filter(([, t]) => t[c.side]) as [key, t] (key)}
                  <div class:wrong={t.known !== t.said} class:at={d?.about === 'tag' && d.key === key}>
                    <dt>tag</dt>
                    <dd>{tag(key)}</dd>
                  </div>
                {/each}
              </dl>
              {#if c.side === 'said' && c.text.mended.length + c.text.left.length > 0}
                <details>
                  <summary
                    ><span class="num">{c.text.mended.length}</span> places mended, <span class="num">{c.text.left.length}</span> not usable</summary
                  >
                  {#each c.text.left as l, i (i)}<div><b>{readable(l.what)}</b>: {readable(l.why)}</div>{/each}
                  {#each c.text.mended as m, i (i)}<div class="soft"><b>{readable(m.what)}</b>: {readable(m.how)}</div>{/each}
                </details>
              {/if}
              {#if c.side === 'said' && c.text.cut}<p class="soft">not whole: {c.text.cut}</p>{/if}
            </section>
          {/each}
        </div>
      </div>
    </div>
    <div class="deckplace">
      <Deck
        digits={{ name: '', caps: [] }}
        {rows}
        named={false}
        folded={session.user?.settings.deck_folded ?? false}
        keys={session.user?.settings.keys ?? {}}
        fold={(f) => session.setDeckFolded(f).catch((e: Error) => (message = e.message))}
      />
    </div>
  </div>
</Shell>

<style>
  .beside {
    display: grid;
    grid-template-rows: minmax(0, 1fr) auto;
    flex: 1;
    min-height: 0;
  }
  .main {
    display: grid;
    grid-template-columns: 208px minmax(0, 1fr);
    gap: 16px;
    min-height: 0;
  }
  .texts {
    overflow: auto;
    border-right: 1px solid var(--line);
    padding-right: 6px;
  }
  .which {
    display: flex;
    flex-wrap: wrap;
  }
  .which [aria-pressed='true'] {
    font-weight: 700;
    color: var(--ink);
  }
  .text {
    display: grid;
    width: 100%;
    text-align: left;
    padding: 3px 8px;
    border-radius: 3px;
    font-size: 13px;
    cursor: pointer;
  }
  .text[aria-current='true'] {
    background: color-mix(in srgb, var(--primary) 14%, transparent);
    box-shadow: inset 3px 0 0 var(--primary);
  }
  .text-side {
    display: grid;
    grid-template-rows: auto auto minmax(0, 1fr);
    min-height: 0;
    min-width: 0;
  }
  .told {
    display: flex;
    gap: 8px;
    align-items: center;
    min-height: 34px;
    overflow-wrap: anywhere;
    grid-row: 2;
  }
  .whose {
    color: var(--accent-text);
  }
  .columns {
    display: grid;
    grid-template-columns: repeat(var(--columns), minmax(0, 1fr));
    gap: 18px;
    min-height: 0;
    overflow: auto;
    grid-row: 3;
  }
  .columns > section {
    display: flex;
    flex-direction: column;
    min-height: 0;
    min-width: 0;
  }
  h2 {
    font-size: 13px;
    font-weight: 600;
    color: var(--soft);
    border-bottom: 1px solid var(--line);
    margin-bottom: 8px;
  }
  dl {
    margin-top: 12px;
    border-top: 1px solid var(--line);
    padding-top: 6px;
  }
  dl > div {
    display: flex;
    gap: 8px;
    padding: 1px 4px;
  }
  dt {
    color: var(--soft);
    min-width: 84px;
  }
  dd {
    overflow-wrap: anywhere;
    white-space: pre-wrap;
  }
  .wrong {
    background: color-mix(in srgb, var(--accent) 9%, transparent);
  }
  .at {
    outline: 2px solid var(--accent);
    border-radius: 2px;
  }
  details {
    margin-top: 8px;
    font-size: 13px;
    overflow-wrap: anywhere;
  }
  .deckplace {
    margin: 0 -18px;
  }
</style>
