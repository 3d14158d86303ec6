// The mean of so many places either way, at the pixels that are wanted.
uniform sampler2D sample_frame;
uniform sampler2D wanted;
uniform int times;          // as large as the result
uniform vec2 first;         // the pixel that the result begins at
out vec4 colour;
void main() {
    ivec2 pixel = ivec2(gl_FragCoord.xy - first);
    if (texelFetch(wanted, pixel, 0).r < 0.5) discard;
    vec4 sum = vec4(0.0);
    for (int y = 0; y < times; ++y)
        for (int x = 0; x < times; ++x) sum += texelFetch(sample_frame, pixel * times + ivec2(x, y), 0);
    colour = sum / float(times * times);
}
