// A solid in a shadow map: its depth alone. Adds nothing where there is a colour to add to.
out vec4 result;
void main() {
    result = vec4(0.0);
}
