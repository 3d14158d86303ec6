// Nothing is drawn; where a pixel is wanted, not even its depth.
uniform sampler2D wanted;
uniform int times;          // as large as the pixels of what is wanted
void main() {
    if (texelFetch(wanted, ivec2(gl_FragCoord.xy) / times, 0).r > 0.5) discard;
}
