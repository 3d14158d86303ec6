// What of a picture casts a shadow.
in vec2 spot;
uniform sampler2D artwork;
uniform float opacity;
void main() {
    if (texture(artwork, spot).a * opacity < 0.5) discard;
}
