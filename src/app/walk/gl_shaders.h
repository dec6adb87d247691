/// The shaders of GlCanvas.
#pragma once

namespace app {

/// From samples of a brick to the screen.
inline constexpr const char* kGroundVertex = R"(#version 330 core
layout(location = 0) in vec3 place;
layout(location = 1) in vec3 normal;
layout(location = 2) in uint kind;  // Material in the lower 16 bits, then the side; 6: smooth.
uniform vec3 origin;                // Of the brick, from the eye.
uniform float stepCells;
uniform mat3 turn;                  // To right, up, forward.
uniform vec2 scale;                 // Of right and up at depth 1, to the picture's half.
uniform vec2 depths;                // Nearest and farthest.
uniform float light[6];
out float lit;
out float away;
out float steep;
out vec3 local;  // In cells from the brick's corner.
flat out float what;
void main() {
  local = place * stepCells;
  vec3 p = turn * (origin + place * stepCells);
  vec3 n2 = normal * normal;
  lit = n2.x * light[normal.x > 0.0 ? 1 : 0] + n2.y * light[normal.y > 0.0 ? 3 : 2] +
        n2.z * light[normal.z > 0.0 ? 5 : 4];
  away = p.z;
  steep = sqrt(max(0.0, 1.0 - normal.y * normal.y));
  what = float(kind);
  float ratio = (depths.y + depths.x) / (depths.y - depths.x);
  float shift = 2.0 * depths.y * depths.x / (depths.y - depths.x);
  gl_Position = vec4(p.x * scale.x, p.y * scale.y, p.z * ratio - shift, p.z);
}
)";

inline constexpr const char* kGroundFragment = R"(#version 330 core
in float lit;
in float away;
in float steep;
in vec3 local;
flat in float what;
uniform float brick;
uniform sampler1D inks;
uniform vec3 cellOf;  // Of the brick's corner.
uniform float pixelSlope;
out vec4 there;

// Leaves have holes an eighth of a cell wide, where that is a pixel at least.
bool isThere() {
  float side = floor(what / 65536.0);
  float part = texelFetch(inks, int(what - side * 65536.0 + 0.5), 0).a;
  if (part > 0.99 || side > 5.5 || away * pixelSlope > 0.125) return true;
  vec3 at = local + cellOf;
  vec3 eighths = floor(at * 8.0 + 0.001);
  int across = int(side / 2.0);
  eighths[across] = floor(at[across] + 0.5);
  uint hash = 0u;
  for (int n = 0; n < 3; ++n) {
    hash = hash * 0x85EBCA6Bu + uint(int(eighths[n]));
    hash = (hash ^ (hash >> 15)) * 0xC2B2AE35u;
    hash ^= hash >> 13;
  }
  return float(hash & 255u) < part * 255.0;
}

void main() {
  if (!isThere()) discard;
  there = vec4(1.0 / away, what + clamp(steep, 0.0, 0.96), lit, mod(brick * 7919.0 + floor(float(gl_PrimitiveID) / 2.0), 4194304.0) + 1.0);
}
)";

/// One triangle over the whole picture.
inline constexpr const char* kInkVertex = R"(#version 330 core
out vec2 at;
void main() {
  at = vec2(gl_VertexID == 1 ? 3.0 : -1.0, gl_VertexID == 2 ? 3.0 : -1.0);
  gl_Position = vec4(at, 0.0, 1.0);
}
)";

inline constexpr const char* kInkFragment = R"(#version 330 core
in vec2 at;
uniform sampler2D there;
uniform sampler1D inks;
uniform mat3 back;        // From right, up, forward to east, up, south.
uniform vec2 slopes;      // Of the picture's edges: right and up at depth 1.
uniform float pixelSlope;
uniform vec3 within;      // The eye within its cell, and its altitude.
uniform vec2 chunkPlace;  // The eye's cell within its chunk.
uniform float chunk, contours, sea, distance, lamp, outlines, wireframe;
uniform vec3 skyInk, fogInk, lineInk;
out vec4 colour;

vec3 skyAt(vec3 ray) {
  float height = clamp(ray.y / length(ray) * 2.2, 0.0, 1.0);
  return mix(fogInk, skyInk, height) * (lamp > 0.0 ? 0.12 : 1.0);
}

float lineFactor(float v, float every, float strength, float pixel) {
  float off = abs(v / every - floor(v / every + 0.5)) * every;
  float fade = clamp(1.6 - pixel * 20.0 / every, 0.0, 1.0);
  return off < pixel * 0.9 ? 1.0 - strength * fade : 1.0;
}

// Contours are as wide on the slope as lines on walls; level ground has none.
float contourFactor(float v, float every, float strength, float pixel, float steep) {
  float off = abs(v / every - floor(v / every + 0.5)) * every;
  float fade = clamp(1.6 - pixel * 20.0 / every, 0.0, 1.0) * clamp((steep - 0.04) * 8.0, 0.0, 1.0);
  return off < pixel * 0.9 * steep ? 1.0 - strength * fade : 1.0;
}

// What has holes needs no ink about them.
bool holed(vec4 a) {
  float side = floor(a.y / 65536.0);
  return side < 5.5 && texelFetch(inks, int(floor(a.y) - side * 65536.0 + 0.5), 0).a < 0.99;
}

bool parts(vec4 a, vec4 b) {
  if (a.x <= 0.0 && b.x <= 0.0) return false;
  if (a.w == b.w && b.x > 0.0) return false;
  if (holed(a.x > b.x ? a : b)) return false;
  float near = max(a.x, b.x), far = min(a.x, b.x);
  if (far <= 0.0) return true;
  if (near > far * 1.08) return true;
  float sideA = floor(a.y / 65536.0), sideB = floor(b.y / 65536.0);
  return a.x > 0.02 && sideA < 6.0 && sideA != sideB;
}

void main() {
  ivec2 pixelAt = ivec2(gl_FragCoord.xy);
  vec4 here = texelFetch(there, pixelAt, 0);
  vec3 ray = back * vec3(at * slopes, 1.0);
  vec3 sky = skyAt(ray);
  vec3 outInk = sky;
  float depth = here.x > 0.0 ? 1.0 / here.x : 0.0;
  if (here.x > 0.0 && wireframe == 0.0) {
    float side = floor(here.y / 65536.0);
    int material = int(floor(here.y) - side * 65536.0 + 0.5);
    float steep = fract(here.y);
    vec3 r = ray * depth;
    vec3 p = r + within;
    bool smoothSide = side > 5.5;
    bool wall = side < 1.5 || (side > 3.5 && !smoothSide);
    float factor = clamp(here.z, 0.0, 1.2);
    float pixel = depth * pixelSlope;
    if (pixel < 0.08 && !smoothSide) {
      if (wall) factor *= lineFactor(p.y, 1.0, 0.16, pixel);
      if (side > 1.5) factor *= lineFactor(p.x, 1.0, 0.16, pixel);
      if (side < 3.5) factor *= lineFactor(p.z, 1.0, 0.16, pixel);
    }
    if (smoothSide) {
      if (pixel < 0.08) factor *= contourFactor(p.y, 1.0, 0.2, pixel, steep);
      if (contours > 0.0) factor *= contourFactor(p.y - sea, contours, 0.38, pixel, steep);
    } else if (contours > 0.0) {
      if (wall) {
        factor *= lineFactor(p.y - sea, contours, 0.38, pixel);
      } else if (mod(abs(floor((p.y + 0.01 - sea) / contours)), 2.0) == 1.0) {
        factor *= 0.95;
      }
    }
    if (chunk > 0.0) {
      if (side > 1.5) factor *= lineFactor(p.x + chunkPlace.x, chunk, 0.6, pixel);
      if (side < 3.5 || smoothSide) factor *= lineFactor(p.z + chunkPlace.y, chunk, 0.6, pixel);
    }
    outInk = min(texelFetch(inks, material, 0).rgb * factor, vec3(1.0));
    float flatAway = length(r.xz);
    if (lamp > 0.0) outInk *= clamp(1.15 - length(r) / 28.0, 0.06, 1.0);
    float fog = clamp((flatAway / distance - 0.55) / 0.43, 0.0, 1.0);
    outInk = mix(outInk, sky, fog * fog);
  }
  if (here.x > 0.0 && (outlines > 0.0 || wireframe > 0.0)) {
    ivec2 size = textureSize(there, 0);
    bool right = pixelAt.x + 1 < size.x;
    bool below = pixelAt.y > 0;
    vec4 toRight = right ? texelFetch(there, pixelAt + ivec2(1, 0), 0) : here;
    vec4 down = below ? texelFetch(there, pixelAt - ivec2(0, 1), 0) : here;
    bool line = wireframe > 0.0 ? toRight.w != here.w || down.w != here.w
                                : (right && parts(here, toRight)) || (below && parts(here, down));
    float faint = 0.55 * clamp(1.2 - depth / distance * 1.6, 0.0, 1.0);
    if (line) outInk = mix(outInk, lineInk, lamp > 0.0 ? faint * 0.5 : faint);
  }
  colour = vec4(outInk, 1.0);
}
)";

}  // namespace app
