/** Where on a particle a pixel is, in radii from its middle; of a streak, from the nearest place of its way. */
const WITHIN = /* glsl */ `
  #ifdef STREAKS
  varying vec3 within;
  vec2 onParticle() { return vec2(within.x, within.y > 0.0 ? within.y : min(within.y + within.z, 0.0)); }
  #else
  vec2 onParticle() { return vec2(2.0, -2.0) * (gl_PointCoord - 0.5); }
  #endif`

/** How particles are drawn as points, balls, discs and streaks. */
export const VERTEX = /* glsl */ `
  #ifdef STREAKS // a band for each, with round ends
  attribute vec2 corner; // across, −1 to 1, and its end: 0 where it is, 1 where it was
  attribute vec3 place;
  attribute vec3 came;   // metres that it came in a frame
  uniform float shutter; // frames
  uniform vec2 size;     // of the picture, pixels
  varying vec3 within;   // on the band in radii: across, along from where it is, and how long it is
  #define PLACE place
  #define NUMBER (gl_VertexID / 4)
  #else
  #define PLACE position
  #define NUMBER gl_VertexID
  #endif
  uniform float spread;  // radii that it is drawn
  attribute vec2 chances; // of its own, 0 to 1: it stays for life
  attribute vec4 values; // radius (m), age (share of life), speed (m/s), travelled (m)
  attribute vec4 traits; // phase, opacity, and the direction a disc faces, each 0 to 1
  attribute vec3 own;    // colour of its own
  attribute float chosen; // number of its own that the look reads
  attribute float lit;   // number of its own that makes it bright
  uniform float pixels;  // pixels of a metre at a metre's distance
  uniform float part;    // of them that is drawn
  uniform float middle;  // metres from the camera to what is looked at
  uniform float least;   // pixels
  uniform vec2 range;
  uniform int source;
  uniform sampler2D ramp;
  uniform vec3 phases[8];
  uniform float glow;    // brightness of the light that they give; 0: they are lit
  uniform float halo;    // radii that it reaches, of points
  uniform int glowBy;    // 0 all alike, 1 at birth, 2 when fast, 3 at the end of the ramp, 4 by a number of its own
  uniform float full;    // speed, m/s, or number at which they are brightest
  uniform float marked;  // place of the marked particle in the buffers, or -1
  varying vec3 colour;
  varying float fade;    // dimmer where a particle is smaller than a pixel
  varying float solid;   // opacity
  varying float chance;
  varying vec3 facing;
  varying float bright;  // of the light it gives
  uniform vec3 towards;  // the sun, in the world
  #include <common>
  #include <shadowmap_pars_vertex>
  #include <fog_pars_vertex>
  varying vec2 depths;   // of its middle, and its radius, metres
  void main() {
    vec4 seen = modelViewMatrix * vec4(PLACE, 1.0);
    gl_Position = projectionMatrix * seen;
    float wide = 2.0 * values.x * pixels / max(-seen.z, 1e-4);
    gl_PointSize = max(wide * spread, least);
    depths = vec2(seen.z, values.x);
    vec4 mvPosition = seen;
    // it does not stand in its own shadow
    vec4 worldPosition = modelMatrix * vec4(PLACE, 1.0) + vec4(towards * values.x, 0.0);
    vec3 transformedNormal = vec3(0.0);
    #include <shadowmap_vertex>
    #include <fog_vertex>
    fade = clamp(wide / least, 0.35, 1.0);
    if (glow > 0.0) gl_PointSize = max(wide * halo, least);
    float value = source == 0 ? values.y : source == 1 ? values.z : source == 2 ? values.w : chosen;
    float t = range.y == range.x ? step(range.x, value) : clamp((value - range.x) / (range.y - range.x), 0.0, 1.0);
    float by = glowBy == 1 ? clamp(1.0 - values.y, 0.0, 1.0) : glowBy == 2 ? clamp(values.z / full, 0.0, 1.0) : glowBy == 3 ? t : glowBy == 4 ? clamp(lit / full, 0.0, 1.0) : 1.0;
    bright = glow * by;
    colour = source == 3 ? own : texture2D(ramp, vec2(t * 255.0 / 256.0 + 0.5 / 256.0, 0.5)).rgb;
    if (source == 5) colour = phases[int(mod(traits.x * 255.0 + 0.5, 8.0))];
    solid = traits.y;
    chance = chances.x;
    vec2 f = traits.zw * 2.0 - 1.0;
    vec3 n = vec3(f, 1.0 - abs(f.x) - abs(f.y));
    if (n.z < 0.0) n.xy = (1.0 - abs(n.yx)) * vec2(n.x < 0.0 ? -1.0 : 1.0, n.y < 0.0 ? -1.0 : 1.0);
    facing = normalize(normalMatrix * n);
    // thinned: the farther ones first
    if (part < 1.0 && chances.y > part * clamp(middle / max(-seen.z, 1e-4), 0.5, 2.0)) {
      gl_Position = vec4(2.0, 2.0, 2.0, 1.0);
      gl_PointSize = 0.0;
    }
    if (abs(float(NUMBER) - marked) < 0.5) {
      gl_Position = projectionMatrix * seen;
      gl_PointSize = max(gl_PointSize * 1.5, 12.0);
      colour = vec3(1.0, 0.55, 0.05);
      fade = solid = 1.0;
    }
    #ifdef STREAKS
    vec4 was = modelViewMatrix * vec4(PLACE - came * shutter, 1.0);
    // what comes from behind the camera is seen from where it is
    if (was.z > -1e-4) was = seen;
    vec2 along = (seen.xy / seen.z - was.xy / was.z) * -pixels;
    float far = length(along);
    vec2 ahead = far > 1e-6 ? along / far : vec2(0.0, 1.0);
    float radius = 0.5 * gl_PointSize;
    float end = 1.0 - 2.0 * corner.y;
    vec2 aside = (vec2(ahead.y, -ahead.x) * corner.x + ahead * end) * radius;
    // who is left out is nowhere
    if (gl_PointSize > 0.0) {
      if (corner.y > 0.5) gl_Position = projectionMatrix * was;
      gl_Position.xy += aside * 2.0 / size * gl_Position.w;
    }
    within = vec3(corner.x, corner.y > 0.5 ? -far / radius - 1.0 : 1.0, far / radius);
    #endif
  }`

export const FRAGMENT = /* glsl */ `
  #include <common>
  #include <packing>
  #include <lights_pars_begin>
  #include <shadowmap_pars_fragment>
  #include <shadowmask_pars_fragment>
  #include <fog_pars_fragment>
  uniform mat4 projectionMatrix;
  uniform float around; // light from all sides
  varying vec2 depths;
  ${WITHIN}
  uniform int shape; // 0 points and streaks, 1 spheres, 2 discs, 3 soft points
  uniform vec3 light; // towards it, as seen by the camera
  uniform float strength;
  varying vec3 colour;
  varying float fade;
  varying float solid;
  varying float chance;
  varying vec3 facing;
  varying float bright;
  uniform float glow;
  // an even scatter of thresholds: what is half seen-through covers half of the pixels
  float threshold(vec2 at) { return fract(52.9829189 * fract(dot(at, vec2(0.06711056, 0.00583715)))); }
  void main() {
    vec2 p = onParticle();
    float r = dot(p, p);
    if (glow > 0.0 && (shape == 0 || shape == 3)) {
      if (r > 1.0) discard;
      // a core, and light around it that falls to nothing at the rim
      float fall = (1.0 - r) * (1.0 - r);
      vec3 given = colour * bright * solid * fade * fall * fall;
      #ifdef USE_FOG // light that is added fades into it
      given *= exp(-fogDensity * fogDensity * vFogDepth * vFogDepth);
      #endif
      // before nothing it covers as much as it shines
      gl_FragColor = vec4(given, max(given.r, max(given.g, given.b)));
      #include <tonemapping_fragment>
      #include <colorspace_fragment>
      return;
    }
    bool soft = shape == 3;
    if (r > 1.0 || (!soft && solid <= fract(threshold(gl_FragCoord.xy) + chance) * 0.999)) discard;
    vec3 normal = vec3(p, sqrt(1.0 - r));
    float sun = strength * getShadowMask();
    float lit = 0.55 * around + 0.45 * sun;
    float ambient = 0.22 * around + 0.15 * strength;
    #ifdef ROUND // more of it from above, less where balls touch: they stay round in shadow
    ambient *= (0.85 + 0.35 * (viewMatrix * vec4(0.0, 1.0, 0.0, 0.0)).y * normal.y) * (0.6 + 0.4 * normal.z);
    #endif
    if (shape == 1) lit = ambient + 0.85 * sun * max(dot(normal, light), 0.0);
    if (shape == 2) {
      float depth = dot(facing.xy, p) / max(abs(facing.z), 0.08);
      if (r + depth * depth > 1.0) discard;
      lit = 0.3 * around + sun * 0.9 * abs(dot(facing, light));
    }
    gl_FragColor = vec4(colour * (lit + bright) * fade, soft ? solid * (1.0 - r) * (1.0 - r) : 1.0);
    #include <tonemapping_fragment>
    #include <colorspace_fragment>
    #include <fog_fragment>
    #ifdef ROUND // as deep as a ball, so that it meets surfaces where it should
    float z = depths.x + depths.y * normal.z;
    gl_FragDepth = 0.5 + 0.5 * (projectionMatrix[2][2] * z + projectionMatrix[3][2]) / -z;
    #endif
  }`

/** Particles in the map of shadows: what is smaller than a texel of it covers one as often as it is large (as in Enderton et al., "Stochastic transparency", 2010). */
export const SHADOW_VERTEX = /* glsl */ `
  attribute vec4 values;
  attribute vec4 traits;
  attribute vec2 chances;
  uniform float texels; // of the map, on a metre
  uniform float shade;  // 0–1: of the light that they keep from what is behind
  #ifdef STREAKS
  attribute vec2 corner;
  attribute vec3 place;
  attribute vec3 came;
  uniform float shutter;
  varying vec3 within;
  #endif
  void main() {
    float wide = 2.0 * values.x * texels;
    #ifdef STREAKS
    mat4 seen = projectionMatrix * modelViewMatrix;
    gl_Position = seen * vec4(place - came * shutter * corner.y, 1.0);
    float radius = projectionMatrix[0][0] * 0.5 * max(wide, 1.0) / texels;
    vec2 along = (seen * vec4(came * shutter, 0.0)).xy;
    float far = length(along);
    vec2 ahead = far > 1e-9 ? along / far : vec2(0.0, 1.0);
    gl_Position.xy += (vec2(ahead.y, -ahead.x) * corner.x + ahead * (1.0 - 2.0 * corner.y)) * radius;
    within = vec3(corner.x, corner.y > 0.5 ? -far / radius - 1.0 : 1.0, far / radius);
    #else
    gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
    gl_PointSize = max(wide, 1.0);
    #endif
    float covered = traits.y * shade * min(1.0, 0.785 * wide * wide);
    if (chances.x >= covered) gl_Position = vec4(2.0, 2.0, 2.0, 1.0);
  }`

export const SHADOW_FRAGMENT = /* glsl */ `
  ${WITHIN}
  void main() {
    vec2 p = onParticle();
    if (dot(p, p) > 1.0) discard;
    gl_FragColor = vec4(1.0);
  }`
