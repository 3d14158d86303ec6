in vec2 place;
out vec2 uv;
void main() {
    uv = place;
    gl_Position = vec4(place * 2.0 - 1.0, 0.0, 1.0);
}
