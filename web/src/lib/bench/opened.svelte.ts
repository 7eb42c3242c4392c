import { whole } from '$lib/api/bytes';
import { api, ask, type Schemas } from '$lib/api/client';
import { Acts } from '$lib/edits/acts';
import { Asking } from '$lib/edits/asking.svelte';
import { Editor } from '$lib/edits/editor.svelte';
import { Findings } from '$lib/edits/findings.svelte';
import { Hand, type Chosen } from '$lib/edits/hand.svelte';
import { History } from '$lib/edits/history';
import { Kept } from '$lib/edits/kept';
import { OpenQuestions } from '$lib/edits/open-questions.svelte';
import type { Outbox, Outcome } from '$lib/edits/outbox.svelte';
import type { BenchPorts, Kind, Media, Surface, Todo } from '$lib/kinds/kind';
import type { Finding, Mark, Pose, Shape } from '$lib/words/mark';
import type { Words } from '$lib/words/words.svelte';
import { Earlier } from './earlier.svelte';
import { isWord, Suggestions } from './suggestions.svelte';
import { Talk } from './talk.svelte';

export type Packet = Schemas['Packet'];

/** What an opened item needs of the bench it lies on. */
export type OnBench = {
  words: Words;
  outbox: Outbox;
  chosen: Chosen;
  project: number;
  user: number;
  /** says something, as long as this item is the one on the bench */
  say: (message: string) => void;
  /** the codebook has changed under the bench */
  newWords: () => void;
  page: (name: string | null) => void;
};

/** One item on the bench, with all that is known of it and done to it. What comes late, when another item lies there, ends here. */
export class Opened {
  packet = $state.raw<Packet>(null!);
  readonly editor: Editor;
  readonly hand: Hand;
  readonly asking: Asking;
  readonly acts: Acts;
  readonly findings: Findings;
  readonly questions: OpenQuestions;
  readonly talk: Talk;
  readonly suggestions: Suggestions;
  readonly earlier: Earlier;
  readonly surface: Surface;
  readonly kept: Kept;
  /** a second press after doubts were shown goes on */
  doubted = $state(false);
  closed = false;

  /** @param since edits that were on their way when the packet was asked for */
  constructor(
    private readonly bench: OnBench,
    packet: Packet,
    since: readonly Schemas['Edit'][],
    kind: Kind,
    media: Media
  ) {
    const { words, outbox, chosen, project, user } = bench;
    const item = packet.item.id;
    const turn = packet.turn.id;
    const say = (message: string) => this.say(message);
    this.packet = packet;
    this.kept = new Kept(user, turn);
    const mode = packet.turn.mode;
    this.editor = new Editor(
      { project, turn, user },
      words,
      outbox,
      (answer, outcomes, unsure) => this.#heard(answer, outcomes, unsure),
      mode === 'look' ? null : new History(user, turn)
    );
    this.editor.take(item, packet.marks, packet.said, since, packet.keys);
    this.hand = new Hand(this.editor.marks, this.kept);
    this.asking = new Asking(words, this.editor, this.hand, item);
    this.acts = new Acts(words, this.editor, this.hand, chosen, item, say);
    this.findings = new Findings(this.editor.marks);
    this.findings.take(packet.findings);
    this.questions = new OpenQuestions(words, this.editor.marks);
    this.talk = new Talk(this, project, say);
    this.suggestions = new Suggestions(this, words, user, () => {
      if (this.editable) this.bench.page('suggestions');
    });
    this.earlier = new Earlier(this, project, bench.words.varies);
    this.surface = kind.open(packet.item, media, {
      words,
      editor: this.editor,
      hand: this.hand,
      chosen,
      acts: this.acts,
      asking: this.asking,
      findings: this.findings,
      kept: this.kept,
      project,
      user,
      turn,
      mode,
      seen: packet.seen,
      slipGuard: packet.slip_guard,
      pins: () => this.packet.pins,
      overlays: () => [...this.earlier.overlays, ...this.suggestions.overlays],
      say,
      between: async (mark, { from, to }, first, last) =>
        (
          await ask(
            api.POST('/projects/{project}/turns/{turn}/between', {
              ...this.path,
              body: {
                kind: mark.kind,
                from: { place: from.place, geometry: from.geometry! },
                to: { place: to.place, geometry: to.geometry! },
                first,
                last
              }
            })
          )
        ).shapes as Mark['geometry'][],
      follow: async (mark, from, last, frames) => {
        const answer = await ask(
          api.POST('/projects/{project}/turns/{turn}/follow', {
            ...this.path,
            body: { kind: mark.kind, from, ...(last && { last }), frames }
          })
        );
        return answer as { found: (typeof from & { certainty: number })[]; unsure: string | null };
      },
      recut: async (mark, from, to, every) =>
        (await ask(
          api.POST('/projects/{project}/turns/{turn}/cut-again', { ...this.path, body: { kind: mark.kind, from, to, every } })
        )) as Awaited<ReturnType<BenchPorts['recut']>>,
      fit: async (mark, keys, first, last) => {
        const stretches = mark.stretches ?? [];
        const body = { kind: mark.kind, keys, stretches, first, last };
        return (await ask(api.POST('/projects/{project}/turns/{turn}/fit', { ...this.path, body }))) as Awaited<
          ReturnType<BenchPorts['fit']>
        >;
      },
      thin: async (mark, shapes) =>
        (await ask(api.POST('/projects/{project}/turns/{turn}/thin', { ...this.path, body: { kind: mark.kind, shapes } }))).places,
      compute: (mark, { op, n, place }) =>
        ask(
          api.POST('/projects/{project}/turns/{turn}/compute', {
            ...this.path,
            body: {
              op,
              kind: mark.kind,
              geometry: mark.geometry,
              class: mark.class,
              ...(op === 'looks' || op === 'words' ? {} : { n }),
              ...(place !== undefined && { place })
            }
          })
        ),
      cutOut: async ({ box, strokes, loose, as }, signal, place, plane) => {
        const body = {
          box,
          strokes: strokes.map(({ adds, points }) => ({ adds, points })),
          loose,
          as,
          ...(place !== undefined && { place }),
          ...(plane !== undefined && { plane })
        };
        const { kind, geometry, ...said } = await ask(api.POST('/projects/{project}/turns/{turn}/cut-out', { ...this.path, body, signal }));
        return { ...said, shape: geometry ? ({ kind, geometry } as Shape) : null };
      },
      pose: async ({ class: of, nodes }, signal, place) => {
        const body = { class: of, nodes, ...(place !== undefined && { place }) };
        const found = await ask(api.POST('/projects/{project}/turns/{turn}/fit-skeleton', { ...this.path, body, signal }));
        return { geometry: found.geometry as Pose, sure: found.nodes };
      },
      fits: packet.fits,
      solid: async (op, slices) =>
        (await ask(api.POST('/projects/{project}/turns/{turn}/solid', { ...this.path, body: { op, slices } }))) as Awaited<
          ReturnType<BenchPorts['solid']>
        >,
      fitCuboid: (wish, signal) => ask(api.POST('/projects/{project}/turns/{turn}/fit-cuboid', { ...this.path, body: wish, signal })),
      grow: async (wish, signal) =>
        (await ask(api.POST('/projects/{project}/turns/{turn}/grow', { ...this.path, body: wish, signal }))) as Awaited<
          ReturnType<BenchPorts['grow']>
        >,
      patches: ({ x, y, width, height, step }, side, signal, place, plane) => {
        const query = new URLSearchParams(
          Object.entries({
            side,
            x,
            y,
            width,
            height,
            step,
            ...(place !== undefined && { place }),
            ...(plane !== undefined && { plane })
          }).map(([k, v]) => [k, String(v)])
        );
        return whole(`/api/v1/projects/${project}/turns/${turn}/patches?${query}`, signal);
      },
      phrases: async () => (await ask(api.GET('/projects/{project}/turns/{turn}/phrases', this.path))).data,
      tellSeen: (cells) => ask(api.PUT('/projects/{project}/turns/{turn}/seen', { ...this.path, body: { cells } })),
      pin: (at) => this.talk.pin(at),
      page: (name) => bench.page(name)
    });
  }
  close(): void {
    this.closed = true;
    void this.surface.settle().catch(() => {});
    this.surface.close();
    this.questions.close();
    this.suggestions.close();
    this.editor.close();
  }

  say(message: string): void {
    if (!this.closed) this.bench.say(message);
  }
  get path() {
    return { params: { path: { project: this.bench.project, turn: this.packet.turn.id } } };
  }
  get mode(): 'label' | 'review' | 'look' {
    return this.packet.turn.mode;
  }
  get editable(): boolean {
    return this.mode !== 'look';
  }

  /** Asks the server for the item again: after another codebook, or where it is not known what is there. */
  async reload(): Promise<void> {
    const since = this.bench.outbox.pending(this.bench.project, this.packet.turn.id);
    const packet = await ask(api.GET('/projects/{project}/turns/{turn}', this.path));
    if (this.closed) return;
    this.packet = packet;
    this.editor.take(packet.item.id, packet.marks, packet.said, since, packet.keys);
    this.findings.take(packet.findings);
    this.questions.rebuild();
  }

  #heard(answer: Schemas['EditResults'], outcomes: readonly Outcome[], unsure: boolean): void {
    const { words, outbox, project } = this.bench;
    if (outbox.pending(project, this.packet.turn.id).length === 0) this.findings.take(answer.findings);
    // done under an earlier codebook: what the server made of it in the words of this one
    const translated = outcomes.some((o) => o.edit.codebook !== undefined && o.edit.codebook !== answer.codebook_version);
    if (answer.codebook_version !== words.version) this.bench.newWords();
    else if (unsure || translated) void this.reload().catch((e: Error) => this.say(e.message));
  }

  /** What is still to do on this item, as far as it can be told here; the check has the last word. */
  todo(): Todo[] {
    if (this.mode !== 'label') return [];
    const { words } = this.bench;
    const { marks } = this.editor;
    const open = this.questions.list;
    const named = (key: string) => words.document.attributes?.find((a) => a.key === key)?.name ?? key;
    const list: Todo[] = open.map(({ key, count }) => ({
      word: named(key),
      count,
      lead: () => this.lead({ mark: this.questions.first(key), attribute: key })
    }));
    const ofItem = this.asking.ofItem;
    for (const q of ofItem)
      if (q.required && this.asking.said.answers[q.key] === undefined)
        list.push({ word: q.name, count: 1, lead: () => this.lead({ mark: null, attribute: q.key }) });
    const least = words.document.limits?.objects?.min ?? 0;
    if (marks.size > 0 && marks.size < least)
      list.push({ word: 'marks at least', count: least - marks.size, lead: () => this.surface.drawing() });
    // (what is asked of frames and pages the surface says)
    const ofPlaces = (words.document.attributes ?? []).filter((a) => a.scope === 'frame' || a.scope === 'page');
    const said = new Set([...open.map((o) => o.key), ...ofItem.map((q) => q.key), ...ofPlaces.map((q) => q.key)]);
    const doubts = this.findings.all.filter((f) => f.attribute === null || !said.has(f.attribute));
    if (doubts.length > 0)
      list.push({ word: doubts.length === 1 ? 'doubt' : 'doubts', count: doubts.length, lead: () => this.nextFinding() });
    if (this.editor.unsettled > 0)
      list.push({
        word: 'not taken',
        count: this.editor.unsettled,
        lead: () => this.say('settle what was not taken: it is shown above the list')
      });
    return [...list, ...this.surface.todo()];
  }

  /** Goes to the mark and question a finding is about. */
  lead(finding: Pick<Finding, 'mark' | 'attribute'> & { place?: number | null }): void {
    if (typeof finding.place === 'number') this.surface.go?.(finding.place);
    this.hand.select(finding.mark);
    this.asking.question = finding.attribute;
    if (this.hand.mark && this.editable) this.surface.picking();
  }
  nextFinding(): void {
    const all = this.findings.all;
    if (all.length === 0) return;
    const { selected } = this.hand;
    const at = all.findIndex((f) => f.mark === selected && (f.attribute === this.asking.question || f.attribute === null));
    this.lead(all[(at + 1) % all.length]!);
    if (this.hand.mark) this.surface.show(this.hand.mark);
  }
  /** A class chosen by its key: the one in hand, and of the marks in hand. */
  choose(key: string): void {
    // a suggestion that is looked at is confirmed as that
    const { now } = this.suggestions;
    if (now && this.hand.size === 0 && this.editable) {
      if (!isWord(now) && this.bench.words.kindsOf(key).includes(now.mark.kind)) this.suggestions.confirm(now, key);
      else this.say(`${this.bench.words.nameOf(key)} is not drawn as this suggestion is`);
      return;
    }
    if (this.editable && this.hand.size === 0 && this.surface.take?.(key)) return;
    if (this.editable) this.acts.choose(key);
    else this.bench.chosen.active = key;
    this.surface.chose();
    this.asking.question = null;
  }
}
