import { Color, DoubleSide, GLSL3, type Side, ShaderMaterial, Vector3 } from 'three';

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

const VERTEX = /* glsl */ `
  #ifdef SHADED
    in vec4 shade;
  #endif
  out vec3 vNormal;
  out float vSky;
  #ifdef USE_COLOR
    out vec3 vColour;
  #endif

  void main() {
    #ifdef SHADED
      vNormal = shade.xyz;
      vSky = shade.w;
    #else
      vNormal = normalize(mat3(modelMatrix) * normal);
      vSky = 1.0;
    #endif
    #ifdef USE_COLOR
      vColour = color.rgb;
    #endif
    gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
  }
`;

const FRAGMENT = /* glsl */ `
  ${LIGHT}
  uniform vec3 tint;
  uniform float seen;
  uniform vec3 toEye;
  in vec3 vNormal;
  in float vSky;
  #ifdef USE_COLOR
    in vec3 vColour;
  #endif
  out vec4 drawn;

  void main() {
    vec3 n = normalize(vNormal);
    if (dot(n, toEye) < 0.0 && !gl_FrontFacing) n = -n;
    #ifdef USE_COLOR
      vec3 colour = vColour;
    #else
      vec3 colour = tint;
    #endif
    drawn = vec4(lit(colour, n, vSky, toEye), seen);
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
}

/** A surface in the light of the bench. Surfaces stand a hair behind lines that are drawn on them. */
export function studio({ colour, shaded = false, side = DoubleSide }: Look): ShaderMaterial {
  const { r, g, b } = new Color().setStyle(colour ?? '#fff', 'srgb-linear');
  return new ShaderMaterial({
    glslVersion: GLSL3,
    vertexShader: VERTEX,
    fragmentShader: FRAGMENT,
    vertexColors: colour === undefined,
    defines: shaded ? { SHADED: 1 } : {},
    uniforms: { tint: { value: new Vector3(r, g, b) }, seen: { value: 1 }, toEye: { value: TO_EYE } },
    side,
    polygonOffset: true,
    polygonOffsetFactor: 1,
    polygonOffsetUnits: 2,
  });
}

/** How much of what lies behind a surface shows through it: 1 for nothing, 0 for all. */
export function setSeen(material: ShaderMaterial, seen: number): void {
  material.uniforms['seen']!.value = seen;
  material.transparent = seen < 1;
  material.depthWrite = seen > 0.5;
  material.visible = seen > 0;
}

/** The quiet shadow of a block on the paper: darkest at its foot, fading away from it. */
export function shadow(halfX: number, halfY: number, fade: number, strength: number): ShaderMaterial {
  return new ShaderMaterial({
    glslVersion: GLSL3,
    vertexShader: /* glsl */ `
      out vec2 place;
      void main() {
        place = position.xy;
        gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
      }
    `,
    fragmentShader: /* glsl */ `
      uniform vec4 block;
      in vec2 place;
      out vec4 drawn;
      void main() {
        // away from the key light the shadow reaches farther
        vec2 d = max(abs(place - vec2(0.35, 0.2) * block.z) - block.xy, 0.0);
        float far = length(d) / block.z;
        drawn = vec4(0.10, 0.08, 0.05, block.w * exp(-far * far * 1.8));
      }
    `,
    uniforms: { block: { value: [halfX, halfY, fade, strength] } },
    transparent: true,
    depthWrite: false,
  });
}
