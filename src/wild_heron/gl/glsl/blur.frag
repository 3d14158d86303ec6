// One way of a Gaussian; the first also brings the picture down to the size it is blurred at.
in vec2 uv;
uniform sampler2D picture;
uniform vec4 part;          // where the result lies in the picture: first and size
uniform vec2 step_uv;       // one step of the result in the picture's coordinates
uniform float own;          // how much the middle counts
uniform vec2 taps[8];       // for two steps at once: how far, in steps, and how much they count on either side
uniform int count;
uniform float level;        // mipmap to read
uniform vec2 cell;          // a step either way, over which the picture's edges fade; 0 where it has none
out vec4 colour;
vec4 taken(vec2 at) {
    // Beyond its edges a picture is empty.
    vec2 within = clamp(0.5 + min(at, 1.0 - at) / max(cell, vec2(1e-9)), 0.0, 1.0);
    return textureLod(picture, at, level) * within.x * within.y;
}
void main() {
    vec2 middle = part.xy + uv * part.zw;
    vec4 sum = taken(middle) * own;
    for (int k = 0; k < count; ++k) {
        vec2 away = step_uv * taps[k].x;
        sum += (taken(middle + away) + taken(middle - away)) * taps[k].y;
    }
    colour = sum;
}
