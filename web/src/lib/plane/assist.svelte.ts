import type { Schemas } from '$lib/api/client';
import type { Mark, Shape } from '$lib/words/mark';
import type { Forms } from './forms';
import type { Computation, PlanePorts } from './ports';

type Ports = Pick<PlanePorts, 'editor' | 'hand' | 'words' | 'say' | 'compute' | 'slipGuard' | 'mode'>;

/** What the core has worked out on a mark and the hand has not yet taken; the air round a box; doubt about a class. */
export class Assist {
  proposal = $state.raw<{ mark: Mark; shape: Shape; what: string } | null>(null);
  air = $state.raw<{ mark: string; sides: NonNullable<Schemas['Computed']['air']> } | null>(null);
  /** another class fits the looks of the mark just drawn much better */
  doubt = $state.raw<{ mark: string; class: string } | null>(null);
  #asked = 0;

  constructor(
    private readonly ports: Ports,
    private readonly forms: () => Forms
  ) {
    ports.hand.on(() => this.clear());
    ports.editor.marks.on((changes) => {
      for (const { id } of changes) {
        if (this.doubt?.mark === id) this.doubt = null;
        // what was worked out was worked out for another shape
        if (this.proposal?.mark.id === id) this.proposal = null;
        if (this.air?.mark === id) this.air = null;
      }
    });
  }
  clear(): boolean {
    const was = this.proposal !== null;
    this.#asked++;
    this.proposal = this.air = null;
    return was;
  }

  /** Asks the core; what comes back is shown first and taken by Enter. An answer that comes late, for another shape, is dropped. */
  async ask(op: Exclude<Computation['op'], 'looks' | 'words'>, n: number, what: string): Promise<void> {
    const { hand, editor, say } = this.ports;
    const mark = hand.mark;
    if (!mark) return;
    const asked = ++this.#asked;
    try {
      const found = await this.ports.compute(mark, { op, n });
      const now = editor.marks.get(mark.id);
      if (asked !== this.#asked || hand.selected !== mark.id || now?.geometry !== mark.geometry) return;
      if (op === 'tight') this.air = found.air ? { mark: mark.id, sides: found.air } : null;
      else if (op === 'mend' && found.changed === 0) say(`nothing to mend up to ${n} px`);
      else
        this.proposal = {
          mark: now,
          shape: { kind: found.kind, geometry: found.geometry } as Shape,
          what: op === 'mend' ? `${what}: ${found.changed} px change` : what
        };
    } catch (e) {
      if (asked === this.#asked) say((e as Error).message);
    }
  }
  take(): boolean {
    const proposal = this.proposal;
    this.proposal = null;
    if (!proposal) return false;
    const { words, editor, say } = this.ports;
    const mark = editor.marks.get(proposal.mark.id);
    if (mark?.geometry !== proposal.mark.geometry) {
      say('the mark has changed meanwhile; ask again');
      return true;
    }
    if (!words.kindsOf(mark.class).includes(proposal.shape.kind))
      say(`${words.nameOf(mark.class)} is not drawn as ${proposal.shape.kind}; the check will say so`);
    this.forms().reshape(mark, proposal.shape);
    return true;
  }

  /** Asks whether the class of a new mark fits what it looks like; says nothing when nobody answers. */
  async guard(mark: Mark): Promise<void> {
    // who draws on has seen the doubt and left it
    this.doubt = null;
    if (!this.ports.slipGuard || this.ports.mode !== 'label') return;
    const found = await this.ports.compute(mark, { op: 'looks', n: 0 }).catch(() => null);
    const now = this.ports.editor.marks.get(mark.id);
    if (found?.doubt && now?.class === mark.class && now.geometry === mark.geometry)
      this.doubt = { mark: mark.id, class: found.doubt.class };
  }
}
