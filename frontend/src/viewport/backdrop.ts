import {
  Color,
  Mesh,
  PlaneGeometry,
  ShaderMaterial,
  SRGBColorSpace,
  type Texture,
  TextureLoader,
  Vector4,
} from "three";
import type { Lighting } from "../api/client";

/** What lies behind the product: a gradient or a photo in the picture's own colours, which no exposure changes. */
export class Backdrop {
  readonly mesh: Mesh;
  readonly material: ShaderMaterial;
  private photo?: Texture;
  private key = "";

  constructor() {
    this.material = new ShaderMaterial({
      uniforms: {
        bottom: { value: new Color() },
        top: { value: new Color() },
        radial: { value: 0 },
        aspect: { value: 1 },
        photo: { value: null },
        place: { value: new Vector4(1, 1, 0, 0) },
        level: { value: 0 },
      },
      vertexShader:
        "varying vec2 at; void main() { at = vec2(uv.x, 1.0 - uv.y); gl_Position = vec4(position.xy, 1.0, 1.0); }",
      fragmentShader: `
        uniform vec3 bottom; uniform vec3 top; uniform float radial; uniform float aspect;
        uniform sampler2D photo; uniform vec4 place; uniform float level; varying vec2 at;
        void main() {
          vec2 off = (at - 0.5) * vec2(aspect, 1.0);
          float share = mix(1.0 - at.y, length(off) / (0.5 * length(vec2(aspect, 1.0))), radial);
          vec3 color = mix(bottom, top, share * share * (3.0 - 2.0 * share));
          vec2 on = (at - 0.5 - place.zw) / place.xy + 0.5;
          if (level > 0.0 && all(greaterThanEqual(on, vec2(0.0))) && all(lessThanEqual(on, vec2(1.0)))) {
            vec4 seen = texture2D(photo, vec2(on.x, 1.0 - on.y));
            color = mix(color, seen.rgb * level, seen.a);
          }
          gl_FragColor = vec4(color, 1.0);
          #include <colorspace_fragment>
        }`,
      depthTest: false,
      depthWrite: false,
      toneMapped: false,
    });
    this.mesh = new Mesh(new PlaneGeometry(2, 2), this.material);
    this.mesh.frustumCulled = false;
    this.mesh.renderOrder = -10;
  }

  /** `shown` is called again once a photo has come. */
  set(backdrop: Lighting["backdrop"], aspect: number, shown: () => void) {
    const { uniforms } = this.material;
    const plain = backdrop.kind === "plain" || backdrop.transparent;
    uniforms.bottom!.value.set(backdrop.bottom);
    uniforms.top!.value.set(plain ? backdrop.bottom : backdrop.top);
    uniforms.radial!.value = backdrop.kind === "radial" ? 1 : 0;
    uniforms.aspect!.value = aspect;
    const wanted = backdrop.kind === "photo" && !backdrop.transparent ? backdrop.picture : null;
    this.mesh.visible = backdrop.kind !== "environment" || backdrop.transparent;
    uniforms.level!.value = wanted && this.photo ? 2 ** backdrop.level : 0;
    if (wanted && this.photo) this.lay(backdrop, aspect);
    if ((wanted ?? "") === this.key) return;
    this.key = wanted ?? "";
    if (!wanted) return;
    new TextureLoader().load(`/api/blobs/${wanted}/shown?color=true`, (photo) => {
      if (this.key !== wanted) return photo.dispose();
      this.photo?.dispose();
      photo.colorSpace = SRGBColorSpace;
      this.photo = photo;
      uniforms.photo!.value = photo;
      this.set(backdrop, aspect, shown);
      shown();
    });
  }

  private lay({ fit, scale, shift }: Lighting["backdrop"], aspect: number) {
    const { width, height } = this.photo!.image as HTMLImageElement;
    const photo = width / height;
    const across = photo > aspect === (fit === "fill") ? photo / aspect : 1;
    const down = photo > aspect !== (fit === "fill") ? aspect / photo : 1;
    this.material.uniforms.place!.value.set(across * scale, down * scale, shift[0], shift[1]);
  }

  dispose() {
    this.photo?.dispose();
  }
}
