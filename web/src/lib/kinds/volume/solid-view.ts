import {
  AmbientLight,
  BufferAttribute,
  BufferGeometry,
  DirectionalLight,
  DoubleSide,
  Mesh,
  MeshStandardMaterial,
  PerspectiveCamera,
  Scene,
  Vector3,
  WebGLRenderer
} from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import type { Surface } from './solid';

/** A body on a canvas, turned by a drag; drawn only when something has changed. */
export class View {
  #renderer: WebGLRenderer;
  #scene = new Scene();
  #camera = new PerspectiveCamera(32, 1, 0.1, 10_000);
  #controls: OrbitControls;
  #mesh: Mesh<BufferGeometry, MeshStandardMaterial> | null = null;
  #frame = 0;
  #of = '';

  /** @throws when the browser has no WebGL 2 */
  constructor(canvas: HTMLCanvasElement) {
    const context = canvas.getContext('webgl2', { antialias: true, alpha: true });
    if (!context) throw new Error('no WebGL 2');
    this.#renderer = new WebGLRenderer({ canvas, context, antialias: true, alpha: true });
    this.#renderer.setPixelRatio(devicePixelRatio);
    const sun = new DirectionalLight('#ffffff', 2.2);
    sun.position.set(-1, 1.4, 2);
    this.#camera.add(sun);
    this.#scene.add(this.#camera, new AmbientLight('#ffffff', 0.7));
    this.#controls = new OrbitControls(this.#camera, canvas);
    this.#controls.enablePan = false;
    this.#controls.addEventListener('change', () => this.#ask());
  }
  close(): void {
    cancelAnimationFrame(this.#frame);
    this.clear();
    this.#controls.dispose();
    this.#renderer.dispose();
  }
  resize(width: number, height: number): void {
    if (width === 0 || height === 0) return;
    this.#renderer.setSize(width, height, false);
    this.#camera.aspect = width / height;
    this.#camera.updateProjectionMatrix();
    this.#ask();
  }
  clear(): void {
    if (!this.#mesh) return;
    this.#scene.remove(this.#mesh);
    this.#mesh.geometry.dispose();
    this.#mesh.material.dispose();
    this.#mesh = null;
    this.#ask();
  }
  /** @param of what it is: another one is looked at from where it is seen whole @param up whether the slices are counted from below */
  show(body: Surface, color: string, of: string, up: boolean): void {
    this.clear();
    if (body.triangles.length === 0) return;
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(body.corners, 3));
    geometry.setIndex(new BufferAttribute(body.triangles, 1));
    geometry.computeVertexNormals();
    geometry.computeBoundingSphere();
    // the sheet's axes go right, down and along the slices: on the screen up is up, as the side views have it
    this.#mesh = new Mesh(geometry, new MeshStandardMaterial({ color, roughness: 0.65, side: DoubleSide }));
    this.#scene.add(this.#mesh);
    const { center, radius } = geometry.boundingSphere!;
    if (this.#of !== of) {
      this.#of = of;
      this.#camera.up.set(0, 0, up ? 1 : -1);
      this.#camera.position.copy(center).add(new Vector3(radius * 1.4, radius * 3, radius * (up ? 1.5 : -1.5)));
      this.#camera.near = radius / 50;
      this.#camera.far = radius * 50;
      this.#camera.updateProjectionMatrix();
    }
    this.#controls.target.copy(center);
    this.#controls.update();
    this.#ask();
  }
  #ask(): void {
    if (this.#frame !== 0) return;
    this.#frame = requestAnimationFrame(() => {
      this.#frame = 0;
      this.#renderer.render(this.#scene, this.#camera);
    });
  }
}
