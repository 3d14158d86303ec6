// Where a point is before and after the frame.
uniform mat4 clip_before;
uniform mat4 clip_after;
out vec4 before;
out vec4 after;
