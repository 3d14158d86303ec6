// The lines along which a part of a picture is cut from the rest; w says on which side it is.
uniform vec4 cuts[MAX_CUTS];
uniform int cut_count;
bool is_cut_away(vec2 uv) {
    for (int k = 0; k < cut_count; ++k) {
        bool ahead = dot(cuts[k].xyz, vec3(uv, 1.0)) >= 0.0;
        if (ahead != (cuts[k].w > 0.0)) return true;
    }
    return false;
}
