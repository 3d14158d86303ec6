// A picture's mean over a parallelogram of the frame. Where a few places agree, more are not looked at.
uniform vec4 inside;
in vec3 in_frame;                         // where it falls in the frame: x, y and w of the clip space
uniform mat3 back;          // from there to u, v and 1
uniform mat3 drift;
uniform vec2 frame_size;
uniform vec4 part_of_pixel; // its sides, and where its middle is
uniform vec2 middle_of_pixel;
uniform vec2 part_of_lens;  // pixels at a distance of one unit, and one over the distance that is sharp
uniform vec2 fewest;
// The u and v that are seen some pixels away from the sample.
vec2 beside(vec2 pixels) {
    vec3 found = vec3(uv, 1.0) / in_frame.z + back * vec3(pixels * 2.0 / frame_size, 0.0);
    return found.xy / found.z;
}
vec4 at_spot(vec2 place, float level) {
    return textureLod(artwork, inside.xy + place * inside.zw, level);
}
vec4 averaged(bool edged) {
    vec3 change = drift * vec3(uv, 1.0);
    vec2 way = (change.xy - in_frame.xy / in_frame.z * change.z) / in_frame.z * 0.5 * frame_size;
    float far = length(way);
    float blur = part_of_lens.x * abs(1.0 / in_frame.z - part_of_lens.y);
    vec2 a = vec2(part_of_pixel.x, 0.0), b = vec2(0.0, part_of_pixel.y), middle = part_of_pixel.zw;
    vec2 least = fewest;
    vec2 slip = vec2(0.0);
    if (far > 0.01 && far < 3.0 && blur < 0.1) {
        // Each place in the pixel at another moment.
        a = vec2(1.0, 0.0), b = vec2(0.0, 1.0), middle = middle_of_pixel, slip = way, least = vec2(6.0);
    } else if (far > 0.01 || blur > 0.01) {
        vec2 along = far > 0.01 ? way / far : vec2(1.0, 0.0);
        float side = sqrt(1.0 + 3.0 * blur * blur);
        // A pixel and a way that lies across it are as wide as both.
        a = along * (far > 0.01 ? max(side, far) + 0.5 * min(side, far) * min(side, far) / max(side, far) : side);
        b = vec2(-along.y, along.x) * side;
        middle = middle_of_pixel;
        least = vec2(4.0);
    }
    vec2 centre = beside(middle);
    vec2 ua = beside(middle + 0.5 * a) - beside(middle - 0.5 * a);
    vec2 ub = beside(middle + 0.5 * b) - beside(middle - 0.5 * b);
    vec2 texels = vec2(textureSize(artwork, 0)) * inside.zw;
    vec2 ta = ua * texels, tb = ub * texels;
    float la = length(ta), lb = length(tb), longest = max(la, lb);
    vec2 box = abs(ua) + abs(ub) + (slip == vec2(0.0) ? vec2(0.0) : abs(beside(middle + slip) - centre));
    bool at_edge = edged && any(lessThan(min(centre, 1.0 - centre), box));
    if (!at_edge) {
        float level = log2(max(0.5 * longest, 1e-6));
        vec4 p = at_spot(beside(middle + 0.25 * (a + b)), level), q = at_spot(beside(middle - 0.25 * (a + b)), level);
        vec4 r = at_spot(beside(middle + 0.25 * (a - b)), level), s = at_spot(beside(middle - 0.25 * (a - b)), level);
        vec4 mean = 0.25 * (p + q + r + s);
        vec4 spread = max(max(p, q), max(r, s)) - min(min(p, q), min(r, s));
        if (all(lessThanEqual(spread, 0.001 + 0.01 * mean))) return mean;
    }
    float area = abs(ta.x * tb.y - ta.y * tb.x), thin = max(area / max(longest, 1e-9), 0.5);
    // Between artwork pixels it changes evenly: two places to each of them will do.
    if (slip == vec2(0.0)) least = clamp(ceil(2.0 * vec2(la, lb)), vec2(2.0), least);
    float na = clamp(ceil(3.0 * la / thin), least.x, MOST_ALONG);
    float nb = clamp(ceil(3.0 * lb / thin), least.y, MOST_ALONG);
    float level = log2(max(max(la / na, lb / nb), 1e-6));
    // A place counts by how far what it stands for lies within the picture.
    vec2 own = max(abs(ua) / na + abs(ub) / nb, vec2(1e-9));
    vec4 sum = vec4(0.0);
    for (float i = 0.5; i < na; i += 1.0) {
        vec2 first = middle + a * (i / na - 0.5);
        for (float j = 0.5; j < nb; j += 1.0) {
            float moment = fract((i * nb + j) * 0.61803399) - 0.5;
            vec2 place = beside(first + b * (j / nb - 0.5) + slip * moment);
            vec4 found = at_spot(place, level);
            if (at_edge) {
                vec2 share = clamp(0.5 + min(place, 1.0 - place) / own, 0.0, 1.0);
                found *= share.x * share.y;
            }
            sum += found;
        }
    }
    return sum / (na * nb);
}
