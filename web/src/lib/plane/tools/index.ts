import type { FlatKind } from '$lib/words/mark';
import { BoxTool } from './box';
import type { Cutout } from '../cutout.svelte';
import type { Patches } from '../patches.svelte';
import { CuboidTool } from './cuboid';
import { CutoutTool } from './cutout';
import { EllipseTool } from './ellipse';
import { OutlineTool } from './outline';
import { PaintTool } from './paint';
import { PickTool } from './pick';
import { PinTool } from './pin';
import { SkeletonTool } from './skeleton';
import type { StageTool, ToolPorts } from './tool';
import { TurnedBoxTool } from './turned-box';
import { WholeTool } from './whole';

export type { StageTool } from './tool';
export { CutoutTool, OutlineTool, PaintTool };

/** One of each: the tool for the hand's mode, and for each kind of shape. */
export function toolbox(at: ToolPorts, cutout: Cutout, patches: Patches) {
  const pick = new PickTool(at);
  const outline = new OutlineTool(at);
  const modes: Record<'pick' | 'hand' | 'pin' | 'whole', StageTool> = { pick, hand: pick, pin: new PinTool(at), whole: new WholeTool(at) };
  const shapes: Record<FlatKind, StageTool> = {
    box: new BoxTool(at),
    turned_box: new TurnedBoxTool(at),
    ellipse: new EllipseTool(at),
    cuboid_2d: new CuboidTool(at),
    skeleton: new SkeletonTool(at),
    polygon: outline,
    polyline: outline,
    points: outline,
    mask: new PaintTool(at, patches)
  };
  return { at, modes, shapes, outline, cutout: new CutoutTool(at, cutout) };
}
