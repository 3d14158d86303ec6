// Light is added up in linear light (IEC 61966-2-1); colours come and go as they are mixed.
#include "colour.glsl"
#include "shadow.glsl"
#ifdef LINEAR
#define AS_MIXED
#define AS_LIGHT
#else
#define AS_MIXED to_shown
#define AS_LIGHT to_linear
#endif

uniform vec3 ambient;
uniform int light_count;
uniform vec4 light_place[MAX_LIGHTS];   // to the light and 0, or where it is and 1
uniform vec4 light_colour[MAX_LIGHTS];  // linear, times strength; reach
uniform vec4 light_kind[MAX_LIGHTS];    // falloff 0 none, 1 even, 2 square; whether it casts shadows
uniform vec3 lit_from;
uniform float gloss;

// Lambert's law, and Blinn's highlight for what is glossy.
vec3 shaded(vec3 own, vec3 normal, vec3 place) {
    vec3 to_eye = normalize(lit_from - place);
    if (dot(normal, to_eye) < 0.0) normal = -normal;
    vec3 light = ambient;
    vec3 shine = vec3(0.0);
    vec3 across = dFdx(place), down = dFdy(place);
    for (int k = 0; k < light_count; ++k) {
        vec3 toward = light_place[k].xyz - place * light_place[k].w;
        float away = length(toward);
        toward /= max(away, 1e-6);
        float facing = max(dot(normal, toward), 0.0);
        float share = away / light_colour[k].w;
        float fade = light_place[k].w == 0.0 || light_kind[k].x == 0.0 ? 1.0
            : light_kind[k].x == 1.0 ? max(1.0 - share, 0.0)
            : pow(max(1.0 - share * share, 0.0), 2.0);
        if (light_kind[k].y > 0.0 && facing > 0.0) fade *= in_light(place, normal, across, down);
        light += light_colour[k].rgb * (facing * fade);
        float mirrored = max(dot(normal, normalize(toward + to_eye)), 0.0);
        shine += light_colour[k].rgb * (fade * step(1e-4, facing) * gloss * pow(mirrored, 48.0));
    }
    return AS_MIXED(AS_LIGHT(own) * light + shine);
}
