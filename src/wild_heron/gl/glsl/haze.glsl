uniform vec3 seen_from;
uniform vec3 haze_colour;
uniform vec3 haze;          // start, end, strength
vec4 hazed(vec4 colour, vec3 place) {
    float share = haze.z * clamp((distance(place, seen_from) - haze.x) / (haze.y - haze.x), 0.0, 1.0);
    return vec4(mix(colour.rgb, haze_colour * colour.a, share), colour.a);
}
