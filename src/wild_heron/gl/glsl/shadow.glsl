// How much of a shadowing light reaches a point: its shadow map, read softly.
uniform sampler2DShadow shadow_map;
uniform mat4 shadow_clip[6];
uniform int shadow_faces;               // 1, or 6 tiles of one texture
uniform vec4 shadow_from;               // where the light is and 1, or 0 where it comes from afar
uniform vec4 shadow_lens;               // the map's depth a unit, or near and far by one over their distance; how
                                        // wide a texel is, there or at a distance of 1; softness; texels to a side
uniform int shadow_taps;                // up to 16

const vec2 DISC[16] = vec2[](
    vec2(-0.94, -0.40), vec2(0.95, -0.77) * 0.8, vec2(-0.09, -0.93), vec2(0.34, 0.29), vec2(-0.92, 0.46) * 0.95,
    vec2(-0.82, -0.88) * 0.7, vec2(-0.38, 0.28), vec2(0.97, 0.28) * 0.95, vec2(0.44, -0.97) * 0.9, vec2(0.54, -0.47),
    vec2(-0.26, -0.42), vec2(0.79, 0.76) * 0.8, vec2(-0.24, 0.97), vec2(-0.81, 0.91) * 0.7, vec2(0.20, 0.78),
    vec2(0.14, -0.14));
// Which of six faces a point lies before.
int shadow_face(vec3 place) {
    if (shadow_faces == 1) return 0;
    vec3 d = place - shadow_from.xyz, m = abs(d);
    return m.x >= m.y && m.x >= m.z ? (d.x > 0.0 ? 0 : 1) : m.y >= m.z ? (d.y > 0.0 ? 2 : 3) : (d.z > 0.0 ? 4 : 5);
}
// Where a point falls in a face's map, and its distance along the face's axis.
vec4 shadow_place(int face, vec3 place) {
    vec4 q = shadow_clip[face] * vec4(place, 1.0);
    return q.w > 0.0 ? vec4(q.xyz / q.w * 0.5 + 0.5, q.w) : vec4(2.0);
}
// How the depth in the map goes on beside a point: the surface's own slope (Isidoro 2006).
vec2 shadow_slope(vec3 dx, vec3 dy) {
    float det = dx.x * dy.y - dx.y * dy.x;
    vec2 slope = vec2(dy.y * dx.z - dx.y * dy.z, dx.x * dy.z - dy.x * dx.z) / (abs(det) < 1e-14 ? 1e14 : det);
    return slope * min(1.0, 12.0 / max(length(slope), 1e-6));
}
float seen_by_light(int face, vec2 place, float depth) {
    if (shadow_faces > 1) {
        float rim = 0.75 / shadow_lens.w;
        place = (clamp(place, rim, 1.0 - rim) + vec2(float(face % 3), float(face / 3))) / vec2(3.0, 2.0);
    }
    return texture(shadow_map, vec3(place, depth));
}
// Called outside of branches, with how the place changes from pixel to pixel.
float in_light(vec3 place, vec3 normal, vec3 across, vec3 down) {
    float away = shadow_from.w > 0.0 ? length(place - shadow_from.xyz) : 1.0;
    float texel = shadow_lens.y * away;
    vec3 pushed = place + normal * (1.5 * texel);
    int face = shadow_face(pushed);
    vec4 q = shadow_place(face, pushed);
    if (q.z >= 1.0 || any(lessThan(q.xy, vec2(0.0))) || any(greaterThan(q.xy, vec2(1.0)))) return 1.0;
    vec2 slope = shadow_slope(shadow_place(face, pushed + across).xyz - q.xyz,
                              shadow_place(face, pushed + down).xyz - q.xyz);
    // How much depth in the map a unit is there.
    float unit = shadow_from.w > 0.0 ? shadow_lens.x / (q.w * q.w) : shadow_lens.x;
    float bias = 0.5 * texel * unit + (shadow_from.w > 0.0 ? 2e-4 * shadow_lens.x / q.w : 1e-4);
    float touching = max(shadow_lens.z, 2.0 * texel) * unit;
    float radius = 0.5 * shadow_lens.z / (texel * shadow_lens.w);
    // Turned by the pixel, so that too few samples show as grain rather than as rings.
    float turn = fract(52.9829189 * fract(dot(gl_FragCoord.xy, vec2(0.06711056, 0.00583715)))) * 6.2831853;
    mat2 around = mat2(cos(turn), sin(turn), -sin(turn), cos(turn)) * radius;
    // Where nothing but what touches it is in the way, the edge is hard, as it is where a shadow begins.
    float clear = 0.0;
    for (int k = 0; k < 5; ++k) {
        vec2 beside = around * DISC[3 * k];
        clear += seen_by_light(face, q.xy + beside, q.z + dot(slope, beside) - touching);
    }
    around *= mix(0.15, 1.0, clamp(5.0 - clear, 0.0, 1.0));
    float sum = 0.0;
    for (int k = 0; k < shadow_taps; ++k) {
        // Where the first, which lie all around, agree, the rest would.
        if (k == 6 && (sum == 0.0 || sum == 6.0)) return sum / 6.0;
        vec2 beside = around * DISC[k];
        sum += seen_by_light(face, q.xy + beside, q.z + dot(slope, beside) - bias);
    }
    return sum / float(shadow_taps);
}
