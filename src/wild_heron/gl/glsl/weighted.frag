// A sample by its weight.
in vec2 uv;
uniform sampler2D sample_frame;
uniform float weight;
out vec4 colour;
void main() {
    colour = texelFetch(sample_frame, ivec2(gl_FragCoord.xy), 0) * weight;
}
