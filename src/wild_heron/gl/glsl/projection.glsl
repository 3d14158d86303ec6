// Photographs projected on a surface; each falls on what it meets first.
uniform mat4 projected[PROJECTIONS];
uniform sampler2D photo[PROJECTIONS];
uniform sampler2D reach[PROJECTIONS];
uniform vec4 photo_size[PROJECTIONS];   // of the photograph and of its reach, in pixels
uniform vec4 projector[PROJECTIONS];    // where it is, and how strong
// A point's place in the photograph, and one over its distance along the axis: even over any flat surface.
vec3 nearness(mat4 from, vec3 point) {
    vec4 q = from * vec4(point, 1.0);
    return vec3(q.xy / q.w * 0.5 + 0.5, 1.0 / q.w);
}
// Where a photograph falls: its place in it, and how far it is received there.
float received(mat4 from, sampler2D met_first, vec3 projector, vec4 size, vec3 facing, out vec3 p) {
    vec4 q = from * vec4(at, 1.0);
    p = q.xyz / max(q.w, 1e-6) * 0.5 + 0.5;
    vec2 rim = clamp(0.5 + min(p.xy, 1.0 - p.xy) * size.xy, 0.0, 1.0);
    float ahead = step(1e-6, q.w) * smoothstep(0.0, 0.05, dot(facing, normalize(projector - at)));
    // What it meets first receives it: four texels, weighed by how near each is, for an edge without steps. Each tells
    // how near the first surface is there; this one's own nearness at its middle follows from how it slopes.
    vec3 place = vec3(p.xy, 1.0 / q.w);
    vec3 dx = nearness(from, at + dFdx(at)) - place, dy = nearness(from, at + dFdy(at)) - place;
    float det = dx.x * dy.y - dx.y * dy.x;
    vec2 slope = vec2(dy.y * dx.z - dx.y * dy.z, dx.x * dy.z - dy.x * dx.z) / (abs(det) < 1e-20 ? 1e20 : det);
    float slack = 2e-4 * place.z + 0.5 * dot(abs(slope), 1.0 / size.zw);
    vec2 cell = p.xy * size.zw - 0.5;
    vec2 part = fract(cell);
    vec2 first = (floor(cell) + 0.5) / size.zw;
    vec4 met;
    for (int k = 0; k < 4; ++k) {
        vec2 texel = first + vec2(float(k & 1), float(k >> 1)) / size.zw;
        met[k] = step(texture(met_first, texel).r, place.z + dot(slope, texel - p.xy) + slack);
    }
    return ahead * rim.x * rim.y * mix(mix(met.x, met.y, part.x), mix(met.z, met.w, part.x), part.y);
}

vec4 covered(vec4 colour, vec4 photograph) {
    return vec4(photograph.rgb + colour.rgb * (1.0 - photograph.a), colour.a);
}
// Samplers are chosen by constants alone.
#define RECEIVED(K, p) received(projected[K], reach[K], projector[K].xyz, photo_size[K], facing, p)
#define SHOW_PHOTOGRAPH(K) { vec3 p; float seen = RECEIVED(K, p); colour = covered(colour, texture(photo[K], p.xy, sharper) * (seen * projector[K].w)); }
