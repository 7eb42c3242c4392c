import type { Bench } from '../bench.svelte';
import type { Kind } from '../types';
import { BoxTool, CuboidTool, EllipseTool, SkeletonTool, TurnedBoxTool } from './dragged';
import { OutlineTool } from './outline';
import { PaintTool } from './paint';
import { PickTool, PinTool, WholeTool } from './pick';
import type { StageTool } from './tool';

export type { StageTool } from './tool';
export { OutlineTool, PaintTool };

/** One of each: the tool for the hand's mode, and for each kind of shape. */
export function toolbox(bench: Bench) {
  const pick = new PickTool(bench);
  const outline = new OutlineTool(bench);
  const modes: Record<'pick' | 'hand' | 'pin' | 'whole', StageTool> = {
    pick,
    hand: pick,
    pin: new PinTool(bench),
    whole: new WholeTool(bench)
  };
  const shapes: Record<Kind, StageTool> = {
    box: new BoxTool(bench),
    turned_box: new TurnedBoxTool(bench),
    ellipse: new EllipseTool(bench),
    cuboid_2d: new CuboidTool(bench),
    skeleton: new SkeletonTool(bench),
    polygon: outline,
    polyline: outline,
    points: outline,
    mask: new PaintTool(bench)
  };
  return { modes, shapes };
}
