// Display values and linear light (sRGB, IEC 61966-2-1).
vec3 to_linear(vec3 c) {
    return mix(c / 12.92, pow((c + 0.055) / 1.055, vec3(2.4)), step(vec3(0.04045), c));
}
vec3 to_display(vec3 c) {
    return mix(c * 12.92, 1.055 * pow(max(c, 1e-9), vec3(1.0 / 2.4)) - 0.055, step(vec3(0.0031308), c));
}
// The same, within what a display shows.
vec3 to_shown(vec3 c) {
    return to_display(clamp(c, 0.0, 1.0));
}
