import {
  BufferAttribute,
  BufferGeometry,
  Color,
  DoubleSide,
  GLSL3,
  InterleavedBuffer,
  InterleavedBufferAttribute,
  Mesh,
  MeshBasicMaterial,
  MOUSE,
  OrthographicCamera,
  PerspectiveCamera,
  Points,
  Raycaster,
  Scene,
  ShaderMaterial,
  Vector2,
  Vector3,
  WebGLRenderer,
  type Camera
} from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import { LineMaterial } from 'three/examples/jsm/lines/LineMaterial.js';
import { LineSegments2 } from 'three/examples/jsm/lines/LineSegments2.js';
import { LineSegmentsGeometry } from 'three/examples/jsm/lines/LineSegmentsGeometry.js';
import type { Cuboid } from '$lib/words/mark';
import { Budget } from './budget';
import { corners, world, type Place, EDGES } from './cuboid';
import type { Frame, Index } from './frame';
import { axes, views, type View } from './views';

/** What points are coloured by. */
export type Colouring = 'height' | 'intensity' | 'class' | 'distance' | 'colour';
export type Looks = {
  by: Colouring;
  /** px across of a point */
  size: number;
  ground: boolean;
  /** metres over the floor that are shown: from, to; null: no end */
  low: number | null;
  high: number | null;
};
/** A cuboid on the stage. */
export type Drawn = { id: string; cuboid: Cuboid; color: string; held: boolean; over: boolean; dashed: boolean };
/** A part of the canvas, in px from its upper left corner. */
export type Pane = { x: number; y: number; width: number; height: number };

/** From low to high: the colours of the house, each lighter than the one before. */
const RAMP = ['#28506b', '#2f7d6b', '#7fa356', '#dcc06a', '#f6ead0'];

const VERTEX = `
in vec4 info;
in vec3 tint;
uniform int by;
uniform float size, floorAt, top, low, high, far;
uniform bool ground;
uniform vec3 ramp[5];
uniform vec3 classes[8];
uniform vec3 center, halves, held;
uniform vec2 heading;
uniform bool holds;
out vec3 shown;
vec3 ramped(float t) {
  float at = clamp(t, 0.0, 1.0) * 4.0;
  int i = min(3, int(at));
  return mix(ramp[i], ramp[i + 1], at - float(i));
}
void main() {
  bool away = (!ground && info.z > 0.5) || position.z < low || position.z > high;
  gl_Position = away ? vec4(2.0, 2.0, 2.0, 1.0) : projectionMatrix * modelViewMatrix * vec4(position, 1.0);
  gl_PointSize = size;
  if (by == 0) shown = ramped((position.z - floorAt + 0.2) / (top - floorAt + 0.2));
  else if (by == 1) shown = ramped(sqrt(info.x / 255.0));
  else if (by == 2) shown = classes[int(mod(info.y, 8.0))];
  else if (by == 3) shown = ramped(1.0 - length(position.xy) / far);
  else shown = tint / 255.0;
  if (holds) {
    vec3 d = position - center;
    vec3 own = vec3(d.x * heading.x + d.y * heading.y, d.y * heading.x - d.x * heading.y, d.z);
    if (all(lessThanEqual(abs(own), halves))) shown = mix(shown, held, 0.75);
  }
}`;
const FRAGMENT = `
precision mediump float;
in vec3 shown;
out vec4 color;
void main() { color = vec4(shown, 1.0); }`;

/** The points of a frame and the cuboids among them, on one canvas: the large view and the three of the object in hand. Drawn when something has changed. */
export class SpaceView {
  #renderer: WebGLRenderer;
  #scene = new Scene();
  #material: ShaderMaterial;
  #points: Points<BufferGeometry, ShaderMaterial> | null = null;
  #frame: Frame | null = null;
  #uploaded = 0;
  #space = new PerspectiveCamera(50, 1, 0.1, 2_000);
  #above = new OrthographicCamera(-1, 1, 1, -1, 0.1, 2_000);
  #own: Record<View, OrthographicCamera>;
  #controls: { space: OrbitControls; above: OrbitControls };
  #lines: { plain: LineSegments2; dashed: LineSegments2; held: LineSegments2 };
  #faces: Mesh<BufferGeometry, MeshBasicMaterial>;
  #rect: LineSegments2;
  #panes: { main: Pane } & Record<View, Pane> = { main: none, above: none, side: none, front: none };
  #height = 1;
  #origin: Place = [0, 0, 0];
  #spread = { centre: new Vector3(), radius: 20 };
  #of = '';
  #asked = 0;
  #moving = 0;
  readonly #budget = new Budget();
  mode: 'space' | 'above' = 'space';
  /** the camera was moved by a hand */
  moved: () => void = () => {};

  /**
   * @param pane where the large view is turned
   * @throws when the browser has no WebGL 2
   */
  constructor(canvas: HTMLCanvasElement, pane: HTMLElement) {
    const context = canvas.getContext('webgl2', { antialias: true, alpha: false });
    if (!context) throw new Error('no WebGL 2');
    this.#renderer = new WebGLRenderer({ canvas, context, antialias: true });
    this.#renderer.setPixelRatio(Math.min(2, devicePixelRatio));
    this.#renderer.setClearColor('#0f1312');
    this.#renderer.setScissorTest(true);
    this.#material = new ShaderMaterial({
      glslVersion: GLSL3,
      vertexShader: VERTEX,
      fragmentShader: FRAGMENT,
      uniforms: {
        by: { value: 0 },
        size: { value: 2 },
        floorAt: { value: 0 },
        top: { value: 3 },
        low: { value: -1e9 },
        high: { value: 1e9 },
        far: { value: 40 },
        ground: { value: true },
        ramp: { value: RAMP.map((c) => new Color().setStyle(c, '')) },
        classes: { value: ['#8b938f', ...RAMP.slice(1), '#f0845a', '#c98bb9', '#6fa8d6'].map((c) => new Color().setStyle(c, '')) },
        center: { value: new Vector3() },
        halves: { value: new Vector3() },
        heading: { value: new Vector2(1, 0) },
        held: { value: new Color() },
        holds: { value: false }
      }
    });
    for (const camera of [this.#space, this.#above]) {
      camera.up.set(0, 0, 1);
      camera.layers.enable(1);
    }
    this.#above.up.set(0, 1, 0);
    this.#own = Object.fromEntries(views.map((v) => [v, new OrthographicCamera(-1, 1, 1, -1, 0.01, 100)])) as Record<
      View,
      OrthographicCamera
    >;
    const controls = (camera: Camera) => {
      const c = new OrbitControls(camera, pane);
      c.enableDamping = false;
      c.zoomToCursor = true;
      c.addEventListener('change', () => {
        this.#moving = performance.now();
        this.ask();
        this.moved();
      });
      return c;
    };
    this.#controls = { space: controls(this.#space), above: controls(this.#above) };
    this.#controls.space.maxPolarAngle = Math.PI / 2 - 0.02;
    this.#controls.above.enableRotate = false;
    this.#controls.above.screenSpacePanning = true;
    const lines = (width: number, dashed = false) => {
      const l = new LineSegments2(
        new LineSegmentsGeometry(),
        new LineMaterial({ vertexColors: true, linewidth: width, dashed, dashSize: 0.16, gapSize: 0.12 })
      );
      l.layers.set(1);
      l.frustumCulled = false;
      l.visible = false;
      this.#scene.add(l);
      return l;
    };
    this.#lines = { plain: lines(1.8), dashed: lines(1.6, true), held: lines(3) };
    this.#rect = lines(2);
    this.#faces = new Mesh(
      new BufferGeometry(),
      new MeshBasicMaterial({ vertexColors: true, transparent: true, opacity: 0.28, side: DoubleSide, depthWrite: false })
    );
    this.#faces.layers.set(1);
    this.#faces.frustumCulled = false;
    this.#scene.add(this.#faces);
    this.drawing(false);
    this.look('space');
  }
  close(): void {
    cancelAnimationFrame(this.#asked);
    this.#points?.geometry.dispose();
    for (const l of [...Object.values(this.#lines), this.#rect]) {
      l.geometry.dispose();
      l.material.dispose();
    }
    this.#faces.geometry.dispose();
    this.#faces.material.dispose();
    this.#material.dispose();
    this.#controls.space.dispose();
    this.#controls.above.dispose();
    this.#renderer.dispose();
  }

  resize(width: number, height: number, panes: { main: Pane } & Record<View, Pane>): void {
    if (width === 0 || height === 0) return;
    this.#renderer.setSize(width, height, false);
    this.#height = height;
    this.#panes = panes;
    const { main } = panes;
    this.#space.aspect = main.width / Math.max(1, main.height);
    this.#space.updateProjectionMatrix();
    this.#square();
    this.ask();
  }
  /** A metre is as many px across as up. */
  #square(): void {
    const { width, height } = this.#panes.main;
    const tall = this.#spread.radius;
    const wide = (tall * width) / Math.max(1, height);
    Object.assign(this.#above, { left: -wide, right: wide, top: tall, bottom: -tall });
    this.#above.updateProjectionMatrix();
  }

  /** The points of a frame, as many as are here. @param of of what cloud: another one is looked at from where it is seen whole */
  put(frame: Frame, index: Index, of: string): void {
    if (this.#frame === frame && this.#uploaded === frame.loaded) return;
    const first = this.#of !== of;
    this.#of = of;
    this.#frame = frame;
    this.#uploaded = frame.loaded;
    this.#origin = [...index.origin];
    this.#points?.geometry.dispose();
    if (this.#points) this.#scene.remove(this.#points);
    const geometry = new BufferGeometry();
    const floats = new InterleavedBuffer(frame.floats.subarray(0, frame.loaded * frame.wide), frame.wide);
    const bytes = new InterleavedBuffer(frame.bytes.subarray(0, frame.loaded * frame.record), frame.record);
    geometry.setAttribute('position', new InterleavedBufferAttribute(floats, 3, 0));
    geometry.setAttribute('info', new InterleavedBufferAttribute(bytes, 4, 12));
    // what has no colours of its own is shown without them
    geometry.setAttribute('tint', new InterleavedBufferAttribute(bytes, 3, index.has_colour ? 16 : 12));
    this.#points = new Points(geometry, this.#material);
    this.#points.frustumCulled = false;
    this.#scene.add(this.#points);
    const { floor, top, centre, radius } = spreadOf(frame);
    const u = this.#material.uniforms;
    u.floorAt!.value = floor;
    u.top!.value = top;
    u.far!.value = radius * 1.2;
    if (first) {
      this.#spread = { centre: new Vector3(...centre), radius };
      this.whole();
    }
    this.ask();
  }
  looks({ by, size, ground, low, high }: Looks): void {
    const u = this.#material.uniforms;
    u.by!.value = ['height', 'intensity', 'class', 'distance', 'colour'].indexOf(by);
    u.size!.value = size * Math.min(2, devicePixelRatio);
    u.ground!.value = ground;
    u.low!.value = low === null ? -1e9 : u.floorAt!.value + low;
    u.high!.value = high === null ? 1e9 : u.floorAt!.value + high;
    this.ask();
  }
  /** Cuboids on the stage; points in the one in hand have its colour. */
  cuboids(list: readonly Drawn[]): void {
    const of = { plain: lineBuffer(), dashed: lineBuffer(), held: lineBuffer() };
    const faces: number[] = [];
    const tints: number[] = [];
    let hand: Drawn | null = null;
    for (const d of list) {
      if (d.held && !d.dashed) hand = d;
      const at = corners(this.#from(d.cuboid));
      const color = new Color().setStyle(d.over ? '#ffffff' : d.color, '');
      const into = d.dashed ? of.dashed : d.held || d.over ? of.held : of.plain;
      for (const [a, b] of EDGES) into.add(at[a]!, at[b]!, color);
      // its nose: where its front is
      const nose = world(this.#from(d.cuboid), [
        d.cuboid.size[0]! / 2 + Math.min(0.6, 0.15 + d.cuboid.size[0]! / 6),
        0,
        -d.cuboid.size[2]! / 2
      ]);
      into.add(at[1]!, nose, color);
      into.add(at[2]!, nose, color);
      if (!d.dashed)
        for (const face of d.held ? [FRONT, ...SIDES] : [FRONT])
          for (const i of face) {
            faces.push(...at[i]!);
            tints.push(color.r, color.g, color.b);
          }
    }
    for (const [name, buffer] of Object.entries(of)) buffer.into(this.#lines[name as keyof typeof of]);
    this.#faces.geometry.dispose();
    this.#faces.geometry = new BufferGeometry();
    this.#faces.geometry.setAttribute('position', new BufferAttribute(new Float32Array(faces), 3));
    this.#faces.geometry.setAttribute('color', new BufferAttribute(new Float32Array(tints), 3));
    this.#faces.visible = faces.length > 0;
    const u = this.#material.uniforms;
    u.holds!.value = hand !== null;
    if (hand) {
      const { center, size, heading } = this.#from(hand.cuboid);
      u.center!.value.set(...(center as Place));
      u.halves!.value.set(size[0]! / 2, size[1]! / 2, size[2]! / 2);
      u.heading!.value.set(Math.cos((heading * Math.PI) / 180), Math.sin((heading * Math.PI) / 180));
      u.held!.value.setStyle(hand.color, '');
    }
    this.ask();
  }
  /** A rectangle on the ground that is being dragged; null: none. */
  rect(from: Place | null, to: Place | null, color: string): void {
    const buffer = lineBuffer();
    if (from && to) {
      const z = from[2] - this.#origin[2] + 0.03;
      const [x0, y0, x1, y1] = [from[0] - this.#origin[0], from[1] - this.#origin[1], to[0] - this.#origin[0], to[1] - this.#origin[1]];
      const at: Place[] = [
        [x0, y0, z],
        [x1, y0, z],
        [x1, y1, z],
        [x0, y1, z]
      ];
      const c = new Color().setStyle(color, '');
      at.forEach((p, i) => buffer.add(p, at[(i + 1) % 4]!, c));
    }
    buffer.into(this.#rect);
    this.ask();
  }
  #from({ center, size, heading }: Cuboid): Cuboid {
    return { center: center.map((m, axis) => m - this.#origin[axis]!), size, heading };
  }

  /** The views of the object in hand. @param scale px a metre */
  own(on: Cuboid | null, scale: number): void {
    if (on) {
      const { center, size, heading } = this.#from(on);
      const turn = (heading * Math.PI) / 180;
      const ahead = new Vector3(Math.cos(turn), Math.sin(turn), 0);
      const left = new Vector3(-Math.sin(turn), Math.cos(turn), 0);
      const up = new Vector3(0, 0, 1);
      const middle = new Vector3(...(center as Place));
      for (const view of views) {
        const camera = this.#own[view];
        const through = ([0, 1, 2] as const).find((axis) => !axes[view].includes(axis))!;
        // what lies just beside it is seen too, what hides it is not
        const deep = size[through]! / 2 + 0.3;
        const from = through === 2 ? up : through === 1 ? left.clone().negate() : ahead;
        camera.position.copy(middle).addScaledVector(from, deep);
        camera.up.copy(view === 'above' ? left : up);
        camera.near = 0;
        camera.far = 2 * deep;
        camera.lookAt(middle);
        const { width, height } = this.#panes[view];
        Object.assign(camera, { left: -width / 2 / scale, right: width / 2 / scale, top: height / 2 / scale, bottom: -height / 2 / scale });
        camera.updateProjectionMatrix();
      }
    }
    this.#owned = on !== null;
    this.ask();
  }
  #owned = false;

  look(mode: 'space' | 'above'): void {
    const was = this.#controls[this.mode].target.clone();
    this.mode = mode;
    this.#controls.space.enabled = mode === 'space';
    this.#controls.above.enabled = mode === 'above';
    if (mode === 'above') this.#lookDown(was);
    else this.#controls.space.target.copy(was);
    this.#controls[mode].update();
    this.ask();
  }
  #lookDown(at: Vector3): void {
    this.#controls.above.target.copy(at);
    this.#above.position.set(at.x, at.y, at.z + 500);
    this.#above.near = 1;
    this.#above.far = 1_500;
    this.#above.updateProjectionMatrix();
  }
  /** While one draws the left button is for that. */
  drawing(on: boolean): void {
    this.#controls.space.mouseButtons = { LEFT: on ? null : MOUSE.ROTATE, MIDDLE: MOUSE.PAN, RIGHT: on ? MOUSE.ROTATE : MOUSE.PAN };
    this.#controls.above.mouseButtons = { LEFT: on ? null : MOUSE.PAN, MIDDLE: MOUSE.PAN, RIGHT: MOUSE.PAN };
  }
  whole(): void {
    const { centre, radius } = this.#spread;
    this.#controls.space.target.copy(centre);
    this.#space.position.copy(centre).add(new Vector3(-radius * 0.9, -radius * 0.25, radius * 0.62));
    this.#space.near = Math.max(0.05, radius / 500);
    this.#space.far = radius * 40;
    this.#space.updateProjectionMatrix();
    this.#controls.space.update();
    this.#above.zoom = 1;
    this.#square();
    this.#lookDown(centre);
    this.#controls.above.update();
    this.ask();
  }
  /** Brings a cuboid into the middle, as large as one sees it well. */
  show(cuboid: Cuboid): void {
    const { center, size } = this.#from(cuboid);
    const at = new Vector3(...(center as Place));
    const reach = Math.max(1.5, Math.hypot(...(size as Place)) * 2.2);
    const way = this.#space.position.clone().sub(this.#controls.space.target).normalize();
    this.#controls.space.target.copy(at);
    this.#space.position.copy(at).addScaledVector(way, reach * 1.6);
    this.#controls.space.update();
    this.#above.zoom = Math.max(this.#above.zoom, this.#spread.radius / (reach * 2.2));
    this.#lookDown(at);
    this.#controls.above.update();
    this.ask();
  }

  /** A ray through a place of the large view, in the cloud's axes. */
  ray(x: number, y: number): { from: Place; towards: Place } {
    const { main } = this.#panes;
    const caster = new Raycaster();
    const at = new Vector2((x / Math.max(1, main.width)) * 2 - 1, 1 - (y / Math.max(1, main.height)) * 2);
    const camera = this.mode === 'space' ? this.#space : this.#above;
    camera.updateMatrixWorld();
    caster.setFromCamera(at, camera);
    const { origin, direction } = caster.ray;
    return {
      from: [origin.x + this.#origin[0], origin.y + this.#origin[1], origin.z + this.#origin[2]],
      towards: [direction.x, direction.y, direction.z]
    };
  }
  /** Where a place lies in the large view, px; null: it is behind. */
  project(place: Place): { x: number; y: number } | null {
    const { main } = this.#panes;
    const camera = this.mode === 'space' ? this.#space : this.#above;
    camera.updateMatrixWorld();
    const at = new Vector3(place[0] - this.#origin[0], place[1] - this.#origin[1], place[2] - this.#origin[2]).project(camera);
    return at.z > 1 || at.z < -1 ? null : { x: ((at.x + 1) / 2) * main.width, y: ((1 - at.y) / 2) * main.height };
  }

  ask(): void {
    if (this.#asked !== 0) return;
    const since = performance.now();
    this.#asked = requestAnimationFrame(() => {
      this.#asked = 0;
      if (this.#isMoving) this.#budget.waited(performance.now() - since);
      this.#draw();
    });
  }
  get #isMoving(): boolean {
    return performance.now() - this.#moving < 180;
  }
  #draw(): void {
    const moving = this.#isMoving;
    const geometry = this.#points?.geometry;
    const draw = (camera: Camera, { x, y, width, height }: Pane) => {
      if (width < 2 || height < 2) return;
      const bottom = this.#height - y - height;
      this.#renderer.setViewport(x, bottom, width, height);
      this.#renderer.setScissor(x, bottom, width, height);
      this.#renderer.render(this.#scene, camera);
    };
    // every beginning is a choice of all points
    geometry?.setDrawRange(0, moving ? this.#budget.points : Infinity);
    draw(this.mode === 'space' ? this.#space : this.#above, this.#panes.main);
    for (const view of views) {
      if (this.#owned) draw(this.#own[view], this.#panes[view]);
      else {
        const { x, y, width, height } = this.#panes[view];
        this.#renderer.setScissor(x, this.#height - y - height, width, height);
        this.#renderer.clear();
      }
    }
    // at rest all of them are drawn
    if (moving && this.#budget.isOver(this.#frame?.loaded ?? 0)) setTimeout(() => this.ask(), 200);
  }
}

const none: Pane = { x: 0, y: 0, width: 0, height: 0 };
const face = (a: number, b: number, c: number, d: number) => [a, b, c, a, c, d];
const FRONT = face(1, 2, 6, 5);
const SIDES = [face(0, 3, 7, 4), face(0, 1, 5, 4), face(3, 2, 6, 7), face(4, 5, 6, 7)];

function lineBuffer() {
  const places: number[] = [];
  const colors: number[] = [];
  return {
    add(a: Place, b: Place, { r, g, b: blue }: Color): void {
      places.push(...a, ...b);
      colors.push(r, g, blue, r, g, blue);
    },
    into(lines: LineSegments2): void {
      lines.geometry.dispose();
      lines.visible = places.length > 0;
      if (places.length === 0) return;
      lines.geometry = new LineSegmentsGeometry().setPositions(places).setColors(colors);
      if (lines.material.dashed) lines.computeLineDistances();
    }
  };
}

/** Where most of a frame's points are, from a choice of them; a few strays do not count. Told from the cloud's origin. */
function spreadOf(frame: Frame): { floor: number; top: number; centre: Place; radius: number } {
  const step = Math.max(1, Math.floor(Math.min(frame.loaded, 200_000) / 20_000));
  const of: [number[], number[], number[]] = [[], [], []];
  for (let i = 0; i < Math.min(frame.loaded, 200_000); i += step)
    for (let axis = 0; axis < 3; axis++) of[axis]!.push(frame.floats[i * frame.wide + axis]!);
  const ends = of.map((all) => {
    all.sort((a, b) => a - b);
    return [all[Math.floor(all.length * 0.01)] ?? 0, all[Math.floor(all.length * 0.99)] ?? 0] as const;
  });
  const floor = frame.floor() - frame.origin[2]!;
  const [wide, deep] = [ends[0]![1] - ends[0]![0], ends[1]![1] - ends[1]![0]];
  return {
    floor,
    top: Math.max(floor + 0.5, ends[2]![1]),
    centre: [(ends[0]![0] + ends[0]![1]) / 2, (ends[1]![0] + ends[1]![1]) / 2, floor],
    radius: Math.max(1, Math.hypot(wide, deep) / 2)
  };
}
