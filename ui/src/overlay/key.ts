import type { Box } from "./frames";

/**
 * A colour is taken out of a film by its distance in chroma, as BT.709 has it (luma apart, so that light and shade of the
 * ground go with it). What is nearer than the tolerance goes, what is a little farther fades over the soft edge; of
 * what stays, the ground's tint is taken by as much as spill says.
 */
const fragment = `
precision mediump float;
uniform sampler2D film; uniform vec3 key; uniform float tolerance, edge, spill;
varying vec2 at;
vec2 chroma(vec3 c) { float y = dot(c, vec3(0.2126, 0.7152, 0.0722)); return vec2((c.b - y) / 1.8556, (c.r - y) / 1.5748); }
void main() {
  vec4 c = texture2D(film, at);
  vec2 k = chroma(key);
  vec2 p = chroma(c.rgb);
  float a = smoothstep(tolerance, tolerance + edge, distance(p, k)) * c.a;
  float along = max(0.0, dot(p, k) / max(dot(k, k), 0.0001));
  vec2 q = p - k * along * spill;
  float y = dot(c.rgb, vec3(0.2126, 0.7152, 0.0722));
  float r = y + 1.5748 * q.y, b = y + 1.8556 * q.x;
  vec3 clean = clamp(vec3(r, (y - 0.2126 * r - 0.0722 * b) / 0.7152, b), 0.0, 1.0);
  gl_FragColor = vec4(clean * a, a);
}`;

const vertex = "attribute vec2 corner; varying vec2 at; void main() { at = vec2((corner.x + 1.0) / 2.0, (1.0 - corner.y) / 2.0); gl_Position = vec4(corner, 0.0, 1.0); }";

/** keyed draws a film without a colour for as long as it plays. Where there is no WebGL the film is shown as it is. */
export function keyed(video: HTMLVideoElement, key: NonNullable<Box["key"]>): { at: HTMLElement; stop: () => void } {
  const canvas = document.createElement("canvas");
  canvas.className = "film";
  const draw = keyer(canvas, key);
  if (!draw) return { at: video, stop: () => undefined };
  let on = true;
  let at = -1;
  const next = () => {
    if (!on) return;
    if (video.currentTime !== at && video.readyState >= HTMLMediaElement.HAVE_CURRENT_DATA) {
      at = video.currentTime;
      draw(video);
    }
    requestAnimationFrame(next); // not by its own frames: a film that stands nowhere on the page tells of none
  };
  next();
  return { at: canvas, stop: () => (on = false) };
}

/** keyer draws frames without a colour into a canvas, each at its own size; nothing where there is no WebGL. */
export function keyer(canvas: HTMLCanvasElement, key: NonNullable<Box["key"]>): ((frame: HTMLVideoElement | HTMLImageElement | HTMLCanvasElement) => void) | undefined {
  const gl = canvas.getContext("webgl", { alpha: true, premultipliedAlpha: true, preserveDrawingBuffer: true });
  if (!gl) return undefined;
  const program = gl.createProgram();
  for (const [type, source] of [
    [gl.VERTEX_SHADER, vertex],
    [gl.FRAGMENT_SHADER, fragment],
  ] as const) {
    const shader = gl.createShader(type)!;
    gl.shaderSource(shader, source);
    gl.compileShader(shader);
    gl.attachShader(program, shader);
  }
  gl.linkProgram(program);
  if (!gl.getProgramParameter(program, gl.LINK_STATUS)) return undefined;
  gl.useProgram(program);
  gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer());
  gl.bufferData(gl.ARRAY_BUFFER, new Float32Array([-1, -1, 1, -1, -1, 1, 1, 1]), gl.STATIC_DRAW);
  const corner = gl.getAttribLocation(program, "corner");
  gl.enableVertexAttribArray(corner);
  gl.vertexAttribPointer(corner, 2, gl.FLOAT, false, 0, 0);
  gl.bindTexture(gl.TEXTURE_2D, gl.createTexture());
  for (const [name, value] of [
    [gl.TEXTURE_WRAP_S, gl.CLAMP_TO_EDGE],
    [gl.TEXTURE_WRAP_T, gl.CLAMP_TO_EDGE],
    [gl.TEXTURE_MIN_FILTER, gl.LINEAR],
    [gl.TEXTURE_MAG_FILTER, gl.LINEAR],
  ] as const)
    gl.texParameteri(gl.TEXTURE_2D, name, value);
  const set = (name: string, n: number) => gl.uniform1f(gl.getUniformLocation(program, name), n);
  const [r, g, b] = [1, 3, 5].map((i) => parseInt(key.colour.slice(i, i + 2), 16) / 255);
  gl.uniform3f(gl.getUniformLocation(program, "key"), r!, g!, b!);
  set("tolerance", key.tolerance || 0.18);
  set("edge", key.edge || 0.08);
  set("spill", key.spill || 0.9);
  return (frame) => {
    const [w, h] = frame instanceof HTMLVideoElement ? [frame.videoWidth, frame.videoHeight] : [frame.width, frame.height];
    if (!w || !h) return;
    if (canvas.width !== w || canvas.height !== h) {
      [canvas.width, canvas.height] = [w, h];
      gl.viewport(0, 0, w, h);
    }
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA, gl.RGBA, gl.UNSIGNED_BYTE, frame);
    gl.drawArrays(gl.TRIANGLE_STRIP, 0, 4);
  };
}
