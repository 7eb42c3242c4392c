import type { Index, Direction } from './planes';

/** An axis of the sheet: x, y, or the slices. */
export type Axis = 0 | 1 | 2;
export type Spot = [number, number, number];

/**
 * How a plane that is cut through a volume lies on the stage. Across the slices a voxel is a pixel, since marks are kept so; in the other two
 * directions pixels are square and as large as the shorter side of a voxel, so that the plane has its true proportions and every tool works on
 * it as on any picture.
 */
export type Facing = {
  direction: Direction;
  /** the axis that goes across, the one that goes down, and the one it is looked along */
  across: Axis;
  down: Axis;
  through: Axis;
  /** whether an axis counts from the right, or from below */
  turned: { across: boolean; down: boolean };
  /** pixels a voxel is wide and high */
  scale: { across: number; down: number };
  /** pixels of the plane */
  width: number;
  height: number;
  /** mm a pixel is wide */
  mm: number;
  /** where its left, right, upper and lower edge lie in a body; empty: nobody knows */
  letters: { left: string; right: string; up: string; low: string };
};

const OTHER: Record<string, string> = { L: 'R', R: 'L', A: 'P', P: 'A', S: 'I', I: 'S' };

/** @param upright which of the axes goes down, the other goes across */
function facing(index: Index, direction: Direction, across: Axis, down: Axis): Facing {
  const through = (3 - across - down) as Axis;
  const { sizes, spacing, letters } = index;
  // what goes up in a body goes up on the stage
  const turned = { across: false, down: down === 2 && (letters?.[2] === 'S' || letters?.[2] === 'A') };
  const plain = direction === 'xy';
  const unit = plain ? spacing[across] : Math.min(spacing[across], spacing[down]);
  const scale = { across: plain ? 1 : spacing[across] / unit, down: plain ? 1 : spacing[down] / unit };
  const to = (axis: Axis) => letters?.[axis] ?? '';
  const [right, low] = [to(across), to(down)];
  return {
    direction,
    across,
    down,
    through,
    turned,
    scale,
    width: Math.max(1, Math.round(sizes[across] * scale.across)),
    height: Math.max(1, Math.round(sizes[down] * scale.down)),
    mm: unit,
    letters: {
      right,
      left: OTHER[right] ?? '',
      low: turned.down ? (OTHER[low] ?? '') : low,
      up: turned.down ? low : (OTHER[low] ?? '')
    }
  };
}

/** The three planes, as each lies when it is the large one. */
export const facings = (index: Index): Record<Direction, Facing> => ({
  xy: facing(index, 'xy', 0, 1),
  xz: facing(index, 'xz', 0, 2),
  yz: facing(index, 'yz', 1, 2)
});

/** The voxel along an axis a pixel lies in. */
export const voxelAt = (pixel: number, scale: number, size: number, turned: boolean): number => {
  const at = Math.max(0, Math.min(size - 1, Math.floor(pixel / scale)));
  return turned ? size - 1 - at : at;
};
/** Where the middle of a voxel lies, in pixels. */
export const pixelOf = (voxel: number, scale: number, size: number, turned: boolean): number =>
  ((turned ? size - 1 - voxel : voxel) + 0.5) * scale;

/** The voxel under a place of the stage. */
export function spotAt(f: Facing, sizes: Spot, at: Spot, p: { x: number; y: number }): Spot {
  const spot: Spot = [...at];
  spot[f.across] = voxelAt(p.x, f.scale.across, sizes[f.across], f.turned.across);
  spot[f.down] = voxelAt(p.y, f.scale.down, sizes[f.down], f.turned.down);
  return spot;
}
/** Where a voxel lies on the stage. */
export const placeOn = (f: Facing, sizes: Spot, spot: Spot): { x: number; y: number } => ({
  x: pixelOf(spot[f.across], f.scale.across, sizes[f.across], f.turned.across),
  y: pixelOf(spot[f.down], f.scale.down, sizes[f.down], f.turned.down)
});
