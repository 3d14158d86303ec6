// One over the distance along the axis.
out float result;
void main() {
    result = gl_FragCoord.w;
}
