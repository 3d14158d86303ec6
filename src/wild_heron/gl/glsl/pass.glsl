// What a pass tells of a pixel: depth, motion in pixels, and the number of the node.
uniform vec2 to_pixels;
uniform float least;        // the alpha from which on something is there
uniform float number;
in vec4 before;
in vec4 after;
vec4 pass(float depth) {
    vec2 way = after.w > 0.0 && before.w > 0.0 ? (after.xy / after.w - before.xy / before.w) * to_pixels : vec2(0.0);
    return vec4(depth, way, number);
}
