/** A line is a band that faces the camera: two vertices at each of its points, one on either side. */
export const VERTEX = /* glsl */ `
  attribute vec4 place; // and how far along the trail: 0 at the particle, 1 at the end
  attribute vec4 way;   // from the point before to the one after, and the side: −1 or 1
  attribute vec4 shade; // colour by the look: value, or rgb with w = 1
  uniform vec2 size;    // of the picture, pixels
  uniform float pixels; // pixels of a metre at a metre's distance
  uniform vec2 widths;  // metres at both ends
  uniform vec2 range;
  uniform float ownRamp; // 1: a ramp along the trail
  uniform float opacityEnd;
  uniform sampler2D ramp;
  #include <common>
  #include <shadowmap_pars_vertex>
  #include <fog_pars_vertex>
  varying vec3 colour;
  varying float solid;
  vec3 onRamp(float t) { return texture2D(ramp, vec2(clamp(t, 0.0, 1.0) * 255.0 / 256.0 + 0.5 / 256.0, 0.5)).rgb; }
  void main() {
    vec4 seen = modelViewMatrix * vec4(place.xyz, 1.0);
    // the way on the screen: the change of x/z and y/z
    vec3 ahead = (modelViewMatrix * vec4(way.xyz, 0.0)).xyz;
    vec2 onScreen = ahead.xy * seen.z - seen.xy * ahead.z;
    vec2 across = length(onScreen) > 1e-12 ? normalize(vec2(-onScreen.y, onScreen.x)) : vec2(1.0, 0.0);
    vec4 mvPosition = seen;
    vec4 worldPosition = modelMatrix * vec4(place.xyz, 1.0);
    vec3 transformedNormal = vec3(0.0);
    #include <shadowmap_vertex>
    #include <fog_vertex>
    float width = mix(widths.x, widths.y, place.w) * pixels / max(-seen.z, 1e-4);
    gl_Position = projectionMatrix * seen;
    gl_Position.xy += across * way.w * max(width, 1.0) / size * gl_Position.w;
    float t = range.y == range.x ? step(range.x, shade.x) : (shade.x - range.x) / (range.y - range.x);
    colour = ownRamp > 0.5 ? onRamp(place.w) : shade.w > 0.5 ? shade.rgb : onRamp(t);
    solid = mix(1.0, opacityEnd, place.w) * clamp(width, 0.35, 1.0);
  }`

export const FRAGMENT = /* glsl */ `
  #include <common>
  #include <packing>
  #include <lights_pars_begin>
  #include <shadowmap_pars_fragment>
  #include <shadowmask_pars_fragment>
  #include <fog_pars_fragment>
  uniform float around;   // light from all sides
  uniform float strength; // of the sun
  varying vec3 colour;
  varying float solid;
  void main() {
    gl_FragColor = vec4(colour * (0.55 * around + 0.45 * strength * getShadowMask()), solid);
    #include <tonemapping_fragment>
    #include <colorspace_fragment>
    #include <fog_fragment>
  }`
