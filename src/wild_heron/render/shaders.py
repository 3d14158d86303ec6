"""GLSL 3.30. Textures are premultiplied, and so is everything that is blended.

Programs are put together from parts by what they need, so that a plain picture costs one texture fetch.
"""

from . import footprints

MAX_LIGHTS = 8
MAX_PROJECTIONS = 4
MAX_CUTS = 16

_HAZE = """
uniform vec3 seen_from;
uniform vec3 haze_colour;
uniform vec3 haze;          // start, end, strength
vec4 hazed(vec4 colour, vec3 place) {
    float share = haze.z * clamp((distance(place, seen_from) - haze.x) / (haze.y - haze.x), 0.0, 1.0);
    return vec4(mix(colour.rgb, haze_colour * colour.a, share), colour.a);
}
"""

# Light is added up in linear light (IEC 61966-2-1) and shown in display values.
_LIGHT = f"""
#define MAX_LIGHTS {MAX_LIGHTS}
uniform vec3 ambient;
uniform int light_count;
uniform vec4 light_place[MAX_LIGHTS];   // to the light and 0, or where it is and 1
uniform vec4 light_colour[MAX_LIGHTS];  // linear, times strength; reach
uniform vec4 light_kind[MAX_LIGHTS];    // falloff 0 none, 1 even, 2 square; whether it casts shadows
uniform vec3 lit_from;
uniform float gloss;
uniform sampler2DShadow shadow_map;
uniform mat4 shadow_clip[6];
uniform int shadow_faces;               // 1, or 6 tiles of one texture
uniform vec4 shadow_from;               // where the light is and 1, or 0 where it comes from afar
uniform vec4 shadow_lens;               // the map's depth a unit, or near and far by one over their distance; how
                                        // wide a texel is, there or at a distance of 1; softness; texels to a side
uniform int shadow_taps;                // up to 16

vec3 to_linear(vec3 c) {{
    return mix(c / 12.92, pow((c + 0.055) / 1.055, vec3(2.4)), step(vec3(0.04045), c));
}}
vec3 to_display(vec3 c) {{
    c = clamp(c, 0.0, 1.0);
    return mix(c * 12.92, 1.055 * pow(c, vec3(1.0 / 2.4)) - 0.055, step(vec3(0.0031308), c));
}}
const vec2 DISC[16] = vec2[](
    vec2(-0.94, -0.40), vec2(0.95, -0.77) * 0.8, vec2(-0.09, -0.93), vec2(0.34, 0.29), vec2(-0.92, 0.46) * 0.95,
    vec2(-0.82, -0.88) * 0.7, vec2(-0.38, 0.28), vec2(0.97, 0.28) * 0.95, vec2(0.44, -0.97) * 0.9, vec2(0.54, -0.47),
    vec2(-0.26, -0.42), vec2(0.79, 0.76) * 0.8, vec2(-0.24, 0.97), vec2(-0.81, 0.91) * 0.7, vec2(0.20, 0.78),
    vec2(0.14, -0.14));
// Which of six faces a point lies before.
int shadow_face(vec3 place) {{
    if (shadow_faces == 1) return 0;
    vec3 d = place - shadow_from.xyz, m = abs(d);
    return m.x >= m.y && m.x >= m.z ? (d.x > 0.0 ? 0 : 1) : m.y >= m.z ? (d.y > 0.0 ? 2 : 3) : (d.z > 0.0 ? 4 : 5);
}}
// Where a point falls in a face's map, and its distance along the face's axis.
vec4 shadow_place(int face, vec3 place) {{
    vec4 q = shadow_clip[face] * vec4(place, 1.0);
    return q.w > 0.0 ? vec4(q.xyz / q.w * 0.5 + 0.5, q.w) : vec4(2.0);
}}
// How the depth in the map goes on beside a point: the surface's own slope (Isidoro 2006).
vec2 shadow_slope(vec3 dx, vec3 dy) {{
    float det = dx.x * dy.y - dx.y * dy.x;
    vec2 slope = vec2(dy.y * dx.z - dx.y * dy.z, dx.x * dy.z - dy.x * dx.z) / (abs(det) < 1e-14 ? 1e14 : det);
    return slope * min(1.0, 12.0 / max(length(slope), 1e-6));
}}
float seen_by_light(int face, vec2 place, float depth) {{
    if (shadow_faces > 1) {{
        float rim = 0.75 / shadow_lens.w;
        place = (clamp(place, rim, 1.0 - rim) + vec2(float(face % 3), float(face / 3))) / vec2(3.0, 2.0);
    }}
    return texture(shadow_map, vec3(place, depth));
}}
// Called outside of branches, with how the place changes from pixel to pixel.
float in_light(vec3 place, vec3 normal, vec3 across, vec3 down) {{
    float away = shadow_from.w > 0.0 ? length(place - shadow_from.xyz) : 1.0;
    float texel = shadow_lens.y * away;
    vec3 pushed = place + normal * (1.5 * texel);
    int face = shadow_face(pushed);
    vec4 q = shadow_place(face, pushed);
    if (q.z >= 1.0 || any(lessThan(q.xy, vec2(0.0))) || any(greaterThan(q.xy, vec2(1.0)))) return 1.0;
    vec2 slope = shadow_slope(shadow_place(face, pushed + across).xyz - q.xyz,
                              shadow_place(face, pushed + down).xyz - q.xyz);
    // How much depth in the map a unit is there.
    float unit = shadow_from.w > 0.0 ? shadow_lens.x / (q.w * q.w) : shadow_lens.x;
    float bias = 0.5 * texel * unit + (shadow_from.w > 0.0 ? 2e-4 * shadow_lens.x / q.w : 1e-4);
    float touching = max(shadow_lens.z, 2.0 * texel) * unit;
    float radius = 0.5 * shadow_lens.z / (texel * shadow_lens.w);
    // Turned by the pixel, so that too few samples show as grain rather than as rings.
    float turn = fract(52.9829189 * fract(dot(gl_FragCoord.xy, vec2(0.06711056, 0.00583715)))) * 6.2831853;
    mat2 around = mat2(cos(turn), sin(turn), -sin(turn), cos(turn)) * radius;
    // Where nothing but what touches it is in the way, the edge is hard, as it is where a shadow begins.
    float clear = 0.0;
    for (int k = 0; k < 5; ++k) {{
        vec2 beside = around * DISC[3 * k];
        clear += seen_by_light(face, q.xy + beside, q.z + dot(slope, beside) - touching);
    }}
    around *= mix(0.15, 1.0, clamp(5.0 - clear, 0.0, 1.0));
    float sum = 0.0;
    for (int k = 0; k < shadow_taps; ++k) {{
        vec2 beside = around * DISC[k];
        sum += seen_by_light(face, q.xy + beside, q.z + dot(slope, beside) - bias);
    }}
    return sum / float(shadow_taps);
}}
// Lambert's law, and Blinn's highlight for what is glossy.
vec3 shaded(vec3 own, vec3 normal, vec3 place) {{
    vec3 to_eye = normalize(lit_from - place);
    if (dot(normal, to_eye) < 0.0) normal = -normal;
    vec3 light = ambient;
    vec3 shine = vec3(0.0);
    vec3 across = dFdx(place), down = dFdy(place);
    for (int k = 0; k < light_count; ++k) {{
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
    }}
    return AS_MIXED(AS_LIGHT(own) * light + shine);
}}
"""


def _light(linear: bool) -> str:
    """Colours come and go as they are mixed: as linear light, or as display values."""
    mixed, light = ("", "") if linear else ("to_display", "to_linear")
    return f"#define AS_MIXED {mixed}\n#define AS_LIGHT {light}\n{_LIGHT}"


_MOVING = """
uniform mat4 clip_before;
uniform mat4 clip_after;
out vec4 before;
out vec4 after;
"""


def picture_vertex(told: bool = False, moving: bool = False) -> str:
    """``told``: with where it falls in the frame, for what is averaged there. ``moving``: with where it is before and
    after."""
    telling = "told = gl_Position.xyw;" if told else ""
    going = "before = clip_before * vec4(uv, 0.0, 1.0); after = clip_after * vec4(uv, 0.0, 1.0);" if moving else ""
    return f"""
#version 330
in vec2 place;              // u, v in the picture, v from the top
uniform mat4 clip_from_picture;
uniform mat4 world_from_picture;
uniform vec2 margin;        // beyond the true edges, in u and v
uniform float order;        // a depth to draw at in place of its own, or 2
uniform vec4 inside;        // where the artwork lies in its texture: first and size, in u and v
uniform vec2 seen_depth;    // the nearest and the farthest depth that is seen
out vec2 uv;
out vec2 spot;
out vec3 at;
{"out vec3 told;" if told else ""}{_MOVING if moving else ""}
void main() {{
    uv = place + margin * (step(1.0, place) - step(place, vec2(0.0)));
    gl_Position = clip_from_picture * vec4(uv, 0.0, 1.0);
    gl_ClipDistance[0] = gl_Position.w - seen_depth.x;
    gl_ClipDistance[1] = seen_depth.y - gl_Position.w;
    {telling}{going}
    if (order < 1.5) gl_Position.z = order * gl_Position.w;
    spot = inside.xy + uv * inside.zw;
    at = (world_from_picture * vec4(uv, 0.0, 1.0)).xyz;
}}
"""


def picture_fragment(edged: bool, hazed: bool, lit: bool, cut: bool, fine: bool = False, linear: bool = False) -> str:
    """``edged``: the picture's own edges cover pixels by their share; it costs a little, so it is used only where such
    an edge is in view. ``cut``: it is a part, up to the lines along which it is cut from the rest. ``fine``: it is
    averaged over what the sample stands for."""
    parted = """
    for (int k = 0; k < cut_count; ++k) {
        bool ahead = dot(cuts[k].xyz, vec3(uv, 1.0)) >= 0.0;
        if (ahead != (cuts[k].w > 0.0)) discard;
    }"""
    cover = """
    vec2 pixel = max(fwidth(uv), vec2(1e-9));
    vec2 share = clamp(0.5 + min(uv, 1.0 - uv) / pixel, 0.0, 1.0);
    colour *= share.x * share.y;"""
    light = """
    if (colour.a > 0.0) colour.rgb = shaded(colour.rgb / colour.a, normal, at) * colour.a;"""
    looked_up = f"averaged({'true' if edged else 'false'})" if fine else "texture(artwork, spot)"
    return f"""
#version 330
in vec2 uv;
in vec2 spot;
in vec3 at;
uniform sampler2D artwork;
uniform float opacity;
uniform vec3 normal;
{"uniform vec4 inside;" if fine else ""}
out vec4 result;
{f"uniform vec4 cuts[{MAX_CUTS}]; uniform int cut_count;" if cut else ""}
{_HAZE if hazed else ""}{_light(linear) if lit else ""}{footprints.GLSL if fine else ""}
void main() {{
    vec4 colour = {looked_up} * opacity;{light if lit else ""}{cover if edged and not fine else ""}
{parted if cut else ""}
    result = {"hazed(colour, at)" if hazed else "colour"};
}}
"""


_SOLID_VERTEX = """
#version 330
in vec3 position;
in vec3 direction;
in vec2 texture_place;
uniform mat4 clip_from_part;
uniform mat4 world;         // to places told from near the eye
uniform mat3 turned;        // inverse transpose of the world's 3 × 3
uniform vec2 seen_depth;    // the nearest and the farthest depth that is seen
out vec3 at;
out vec3 normal;
out vec2 uv;
MOVING
invariant gl_Position;      // one solid may be drawn twice, to the very same depths
void main() {
    at = (world * vec4(position, 1.0)).xyz;
    normal = turned * direction;
    uv = texture_place;
    gl_Position = clip_from_part * vec4(position, 1.0);
    gl_ClipDistance[0] = gl_Position.w - seen_depth.x;
    gl_ClipDistance[1] = seen_depth.y - gl_Position.w;
    GOING
}
"""
SOLID_VERTEX = _SOLID_VERTEX.replace("MOVING", "").replace("GOING", "")
MOVING_SOLID_VERTEX = _SOLID_VERTEX.replace("MOVING", _MOVING).replace(
    "GOING", "before = clip_before * vec4(position, 1.0); after = clip_after * vec4(position, 1.0);"
)


def solid_fragment(
    textured: bool, hazed: bool, lit: bool, projections: int, stretch: bool, linear: bool = False
) -> str:
    """A model's surface, with up to four photographs projected on it, or how far the first of them is stretched."""
    uniforms = "".join(
        f"uniform mat4 projected_{k}; uniform sampler2D photo_{k}; uniform sampler2D reach_{k};\n"
        f"uniform vec4 photo_size_{k}; uniform vec4 projector_{k};\n"
        for k in range(projections)
    )
    # A photograph shows its own colours, as it was lit when it was taken.
    photographs = "".join(
        f"    {{ vec3 p; float seen = received(projected_{k}, reach_{k}, projector_{k}.xyz,"
        f" photo_size_{k}, facing, p);\n"
        f"      vec4 photo = texture(photo_{k}, p.xy, sharper) * (seen * projector_{k}.w);\n"
        f"      colour = vec4(photo.rgb + colour.rgb * (1.0 - photo.a), colour.a); }}\n"
        for k in range(projections)
    )
    measure = (
        """
    vec3 p; float seen = received(projected_0, reach_0, projector_0.xyz, photo_size_0, facing, p);
    vec2 dx = dFdx(p.xy) * photo_size_0.xy, dy = dFdy(p.xy) * photo_size_0.xy;
    // The smaller singular value: photograph pixels to an output pixel, along the most stretched direction.
    float sum = dot(dx, dx) + dot(dy, dy), area = dx.x * dy.y - dx.y * dy.x;
    float least = sqrt(max(0.5 * (sum - sqrt(max(sum * sum - 4.0 * area * area, 0.0))), 1e-12));
    // In octaves, eight of them over a byte, and what is left over of its steps in another.
    float steps = clamp(log2(1.0 / least) / 8.0 + 0.5, 0.0, 1.0) * 255.0;
    result = vec4(floor(steps) / 255.0, seen > 0.5 ? 1.0 : 0.0, fract(steps), 1.0);"""
        if stretch
        else f"""
{photographs}    result = {"hazed(colour, at)" if hazed else "colour"};"""
    )
    return f"""
#version 330
in vec3 at;
in vec3 normal;
in vec2 uv;
uniform vec4 own;
uniform float opacity;
uniform float cutoff;
uniform float sharper;      // levels of a mipmap, for samples that are a part of a pixel
uniform sampler2D artwork;
out vec4 result;
{_HAZE if hazed else ""}{_light(linear) if lit else ""}{uniforms}
// A point's place in the photograph, and one over its distance along the axis: even over any flat surface.
vec3 nearness(mat4 projected, vec3 point) {{
    vec4 q = projected * vec4(point, 1.0);
    return vec3(q.xy / q.w * 0.5 + 0.5, 1.0 / q.w);
}}
// Where a photograph falls: its place in it, and how far it is received there.
float received(mat4 projected, sampler2D reach, vec3 projector, vec4 size, vec3 facing, out vec3 p) {{
    vec4 q = projected * vec4(at, 1.0);
    p = q.xyz / max(q.w, 1e-6) * 0.5 + 0.5;
    vec2 rim = clamp(0.5 + min(p.xy, 1.0 - p.xy) * size.xy, 0.0, 1.0);
    float ahead = step(1e-6, q.w) * smoothstep(0.0, 0.05, dot(facing, normalize(projector - at)));
    // What it meets first receives it: four texels, weighed by how near each is, for an edge without steps. Each tells
    // how near the first surface is there; this one's own nearness at its middle follows from how it slopes.
    vec3 place = vec3(p.xy, 1.0 / q.w);
    vec3 dx = nearness(projected, at + dFdx(at)) - place, dy = nearness(projected, at + dFdy(at)) - place;
    float det = dx.x * dy.y - dx.y * dy.x;
    vec2 slope = vec2(dy.y * dx.z - dx.y * dy.z, dx.x * dy.z - dy.x * dx.z) / (abs(det) < 1e-20 ? 1e20 : det);
    float slack = 2e-4 * place.z + 0.5 * dot(abs(slope), 1.0 / size.zw);
    vec2 cell = p.xy * size.zw - 0.5;
    vec2 part = fract(cell);
    vec2 first = (floor(cell) + 0.5) / size.zw;
    vec4 met;
    for (int k = 0; k < 4; ++k) {{
        vec2 texel = first + vec2(float(k & 1), float(k >> 1)) / size.zw;
        met[k] = step(texture(reach, texel).r, place.z + dot(slope, texel - p.xy) + slack);
    }}
    return ahead * rim.x * rim.y * mix(mix(met.x, met.y, part.x), mix(met.z, met.w, part.x), part.y);
}}
void main() {{
    vec4 base = own{" * texture(artwork, uv, sharper)" if textured else ""};
    float alpha = base.a * opacity;
    {"base.rgb /= max(base.a, 1e-4); base.rgb *= own.a;" if textured else ""}
    if (base.a < cutoff) discard;
    vec3 facing = normalize(normal);
    {"if (dot(facing, lit_from - at) < 0.0) facing = -facing;" if lit else ""}
    vec4 colour = vec4({"shaded(base.rgb, facing, at)" if lit else "base.rgb"}, 1.0);{measure}
    {"" if stretch else "result *= alpha;"}
}}
"""


SHADOW_PICTURE_FRAGMENT = """
#version 330
in vec2 spot;
uniform sampler2D artwork;
uniform float opacity;
void main() {
    if (texture(artwork, spot).a * opacity < 0.5) discard;
}
"""

# One over the distance along the axis.
NEARNESS_FRAGMENT = """
#version 330
out float result;
void main() {
    result = gl_FragCoord.w;
}
"""

# Adds nothing where there is a colour to add to.
SHADOW_SOLID_FRAGMENT = """
#version 330
out vec4 result;
void main() {
    result = vec4(0.0);
}
"""

WHOLE_FRAME_VERTEX = """
#version 330
in vec2 place;
out vec2 uv;
void main() {
    uv = place;
    gl_Position = vec4(place * 2.0 - 1.0, 0.0, 1.0);
}
"""

# What a pixel shows, as it is asked for. Colours come premultiplied, but over a background that is there.
DEVELOP_FRAGMENT = """
#version 330
in vec2 uv;
uniform sampler2D sample_frame;
uniform bool light_in;
uniform bool light_out;
uniform bool clear;         // nothing lies behind: values for a display are told without their alpha
out vec4 colour;
vec3 to_linear(vec3 c) {
    return mix(c / 12.92, pow((c + 0.055) / 1.055, vec3(2.4)), step(vec3(0.04045), c));
}
vec3 to_display(vec3 c) {
    return mix(c * 12.92, 1.055 * pow(max(c, 1e-9), vec3(1.0 / 2.4)) - 0.055, step(vec3(0.0031308), c));
}
void main() {
    vec4 found = texelFetch(sample_frame, ivec2(gl_FragCoord.xy), 0);
    float own = clear ? found.a : 1.0;
    vec3 c = own > 0.0 ? found.rgb / own : vec3(0.0);
    if (light_in != light_out) c = light_out ? to_linear(c) : to_display(c);
    // Bytes tell how far artwork covers the background; light over a background has nothing behind it.
    colour = vec4(light_out ? c * own : c, clear || !light_out ? found.a : 1.0);
}
"""

WEIGHTED_FRAGMENT = """
#version 330
in vec2 uv;
uniform sampler2D sample_frame;
uniform float weight;
uniform int times;          // as large as the result
uniform vec2 first;         // the pixel that the result begins at
out vec4 colour;
void main() {
    ivec2 from = ivec2(gl_FragCoord.xy - first) * times;
    vec4 sum = vec4(0.0);
    for (int y = 0; y < times; ++y)
        for (int x = 0; x < times; ++x) sum += texelFetch(sample_frame, from + ivec2(x, y), 0);
    colour = sum * weight;
}
"""

# One way of a Gaussian; the first also brings the picture down to the size it is blurred at.
BLUR_FRAGMENT = """
#version 330
in vec2 uv;
uniform sampler2D picture;
uniform vec4 part;          // where the result lies in the picture: first and size
uniform vec2 step_uv;       // one step of the result in the picture's coordinates
uniform float deviation;    // in steps
uniform float level;        // mipmap to read
uniform vec2 cell;          // a step either way, over which the picture's edges fade; 0 where it has none
out vec4 colour;
vec4 taken(vec2 at) {
    // Beyond its edges a picture is empty.
    vec2 within = clamp(0.5 + min(at, 1.0 - at) / max(cell, vec2(1e-9)), 0.0, 1.0);
    return textureLod(picture, at, level) * within.x * within.y;
}
void main() {
    vec2 middle = part.xy + uv * part.zw;
    int reach = int(ceil(3.0 * deviation));
    vec4 sum = taken(middle);
    float total = 1.0;
    for (int k = 1; k <= reach; ++k) {
        float weight = exp(-0.5 * float(k * k) / (deviation * deviation));
        sum += (taken(middle + step_uv * float(k)) + taken(middle - step_uv * float(k))) * weight;
        total += 2.0 * weight;
    }
    colour = sum / total;
}
"""
