import {
  BufferAttribute,
  BufferGeometry,
  Color,
  DoubleSide,
  GLSL3,
  Mesh,
  MeshBasicMaterial,
  ShaderMaterial,
  type Side,
  Vector3,
} from 'three';

/** Light on a level face that sees all of the sky, against which lenses make their colours. */
export const LEVEL_LIGHT = 1.4;

/**
 * The light of the bench: a key light from the upper left, a weak cool one from the right, and the sky, as much of it as a place
 * sees. All of it stands still in the frame of the work zero, so that turning the view changes what is seen and not how it is lit.
 * Colours are mixed as they are drawn.
 */
const LIGHT = /* glsl */ `
  const vec3 KEY = vec3(-0.4476, -0.2487, 0.8589);
  const vec3 COOL = vec3(0.8452, 0.3381, 0.4138);

  vec3 lit(vec3 colour, vec3 normal, float sky, vec3 toEye) {
    float key = max(dot(normal, KEY), 0.0);
    float cool = max(dot(normal, COOL), 0.0);
    // the sky lights what faces up more than what faces sideways, and hidden places less
    float open = sky * (0.84 + 0.16 * normal.z);
    float shine = pow(max(dot(normal, normalize(KEY + toEye)), 0.0), 36.0);
    vec3 light = vec3(0.92) * open + vec3(0.52, 0.51, 0.49) * key * (0.3 + 0.7 * sky) + vec3(0.08, 0.10, 0.13) * cool;
    return colour * light + vec3(0.10) * shine * sky;
  }
`;

// light is worked out at the corners: with as many of them as steel has it looks the same, and costs a third
const VERTEX = /* glsl */ `
  ${LIGHT}
  uniform vec3 tint;
  uniform vec3 toEye;
  uniform float exposure;
  #ifdef SHADED
    in vec4 shade;
  #endif
  out vec3 vLit;

  void main() {
    #ifdef SHADED
      vec3 n = normalize(shade.xyz);
      float sky = shade.w;
    #else
      vec3 n = normalize(mat3(modelMatrix) * normal);
      float sky = 1.0;
      // a surface is seen from both sides
      if (dot(n, toEye) < 0.0) n = -n;
    #endif
    #ifdef USE_COLOR
      vLit = lit(color.rgb, n, sky, toEye);
    #else
      vLit = lit(tint, n, sky, toEye);
    #endif
    vLit *= exposure;
    gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
  }
`;

const FRAGMENT = /* glsl */ `
  uniform float seen;
  in vec3 vLit;
  out vec4 drawn;
  void main() {
    drawn = vec4(vLit, seen);
  }
`;

/** Direction from what is looked at to the eye, shared by all materials: the scene keeps it as it is. */
export const TO_EYE = new Vector3(0, 0, 1);

export interface Look {
  /** One colour for all of it, as `#rrggbb`; without it each corner has its own. */
  readonly colour?: string;
  /** Corners have an attribute `shade`: their normal, and the share of the sky that they see. */
  readonly shaded?: boolean;
  readonly side?: Side;
  /** Share of the light that falls on it: on a surface of light plaster less than on steel. */
  readonly exposure?: number;
}

/** How far behind lines a surface stands, in the units of a polygon's offset. */
const BEHIND = { factor: 1, units: 2 };

/** A surface in the light of the bench. Surfaces stand a hair behind lines that are drawn on them. */
export function studio({ colour, shaded = false, side = DoubleSide, exposure = 1 }: Look): ShaderMaterial {
  const { r, g, b } = new Color().setStyle(colour ?? '#fff', 'srgb-linear');
  return new ShaderMaterial({
    glslVersion: GLSL3,
    vertexShader: VERTEX,
    fragmentShader: FRAGMENT,
    vertexColors: colour === undefined,
    defines: shaded ? { SHADED: 1 } : {},
    uniforms: {
      tint: { value: new Vector3(r, g, b) },
      seen: { value: 1 },
      exposure: { value: exposure },
      toEye: { value: TO_EYE },
    },
    side,
    polygonOffset: true,
    polygonOffsetFactor: BEHIND.factor,
    polygonOffsetUnits: BEHIND.units,
  });
}

/** How much of what lies behind a surface shows through it: 1 for nothing, 0 for all. */
export function setSeen(material: ShaderMaterial, seen: number): void {
  material.uniforms['seen']!.value = seen;
  material.transparent = seen < 1;
  material.depthWrite = seen > 0.5;
  material.visible = seen > 0;
  // where both lie in one plane it is the veil that is in front of what is seen through it
  material.polygonOffsetFactor = seen < 1 ? BEHIND.factor / 2 : BEHIND.factor;
  material.polygonOffsetUnits = seen < 1 ? BEHIND.units / 2 : BEHIND.units;
}

/** Rings of the shadow around a block, and corners of each. */
const RINGS = 7;
const ROUND = 32;

/**
 * The quiet shadow of a block on the paper: darkest at its foot, fading away from it, farther on the side away from the light.
 *
 * @param fade how far it reaches, mm
 * @param strength how dark it is at the foot, 0 to 1
 */
export function shadowOf(halfX: number, halfY: number, fade: number, strength: number): Mesh {
  const positions: number[] = [];
  const colours: number[] = [];
  const indices: number[] = [];
  for (let r = 0; r < RINGS; r++) {
    const far = r / (RINGS - 1);
    for (let k = 0; k < ROUND; k++) {
      const angle = (2 * Math.PI * k) / ROUND;
      const [c, s] = [Math.cos(angle), Math.sin(angle)];
      const away = fade * far * (1 + 0.35 * Math.max(0, c * 0.87 + s * 0.49));
      positions.push(Math.sign(c) * halfX + c * away, Math.sign(s) * halfY + s * away, 0);
      colours.push(0, 0, 0, strength * (1 - far) ** 2);
      const next = (k + 1) % ROUND;
      if (r > 0) {
        const [a, b] = [(r - 1) * ROUND, r * ROUND];
        indices.push(a + k, b + k, b + next, a + k, b + next, a + next);
      }
    }
  }
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(new Float32Array(positions), 3));
  geometry.setAttribute('color', new BufferAttribute(new Float32Array(colours), 4));
  geometry.setIndex(indices);
  const mesh = new Mesh(
    geometry,
    new MeshBasicMaterial({ vertexColors: true, transparent: true, depthWrite: false, side: DoubleSide }),
  );
  mesh.renderOrder = -1;
  return mesh;
}
