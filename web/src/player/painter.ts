/**
 * Pictures worked on by the graphics processor: one WebGL2 context for the whole page, whose result is copied to the canvas
 * that shows it. Textures hold premultiplied colours, in half floats where that can be drawn to, so that a chain of many
 * steps does not band; their first row is the picture's uppermost.
 */

export interface Texture {
  of: WebGLTexture;
  width: number;
  height: number;
  /** Its framebuffer; none where it only holds an upload. */
  buffer: WebGLFramebuffer | null;
  /** True for a table of colours, which has three dimensions. */
  table?: true;
}

type Uniform = number | readonly [number, number] | readonly ["int", number] | Texture;

const VERTEX = `#version 300 es
in vec2 corner; uniform float upright; out vec2 place;
void main() { place = corner; vec2 p = 2.0 * corner - 1.0; gl_Position = vec4(p.x, p.y * upright, 0.0, 1.0); }`;

const FRAGMENT = (body: string) => `#version 300 es
precision highp float; precision highp int;
uniform sampler2D picture; uniform vec2 size; in vec2 place; out vec4 shown;
${body}
void main() { shown = colour(place); }`;

const AS_IT_IS = `
vec4 colour(vec2 at) { return texture(picture, at); }`;

/** Pictures whose textures are kept, the one used longest ago given up first. */
const KEPT = 24;

/** Names of renderers that make WebGL2 by software. */
const BY_SOFTWARE = /swiftshader|llvmpipe|softpipe|software|basic render/i;

interface Program {
  of: WebGLProgram;
  places: Map<string, WebGLUniformLocation | null>;
}

export class Painter {
  private readonly programs = new Map<string, Program>();
  private readonly free = new Map<string, Texture[]>();
  private readonly used: Texture[] = [];
  private readonly uploaded = new Map<object, Texture>();
  private readonly lasting = new Map<string, Texture>();
  private readonly format: number;
  private size: [number, number] = [1, 1];
  /** True where WebGL2 is made by software: a pass over the programme and its way back take longer than a frame lasts. */
  readonly slow: boolean;

  private constructor(
    private readonly canvas: OffscreenCanvas,
    private readonly gl: WebGL2RenderingContext,
  ) {
    const floats = gl.getExtension("EXT_color_buffer_float") || gl.getExtension("EXT_color_buffer_half_float");
    this.format = floats ? gl.RGBA16F : gl.RGBA8;
    const corners = gl.createBuffer();
    gl.bindBuffer(gl.ARRAY_BUFFER, corners);
    gl.bufferData(gl.ARRAY_BUFFER, new Float32Array([0, 0, 1, 0, 0, 1, 1, 1]), gl.STATIC_DRAW);
    gl.enableVertexAttribArray(0);
    gl.vertexAttribPointer(0, 2, gl.FLOAT, false, 0, 0);
    gl.pixelStorei(gl.UNPACK_PREMULTIPLY_ALPHA_WEBGL, true);
    const info = gl.getExtension("WEBGL_debug_renderer_info");
    const made = String(gl.getParameter(info ? info.UNMASKED_RENDERER_WEBGL : gl.RENDERER));
    this.slow = BY_SOFTWARE.test(made);
  }

  /** A painter; null where the browser has no WebGL2. */
  static make(): Painter | null {
    const canvas = new OffscreenCanvas(1, 1);
    const gl = canvas.getContext("webgl2", { premultipliedAlpha: true, antialias: false, depth: false });
    return gl ? new Painter(canvas, gl) : null;
  }

  /** Begin a picture of a size: textures of the one before can be drawn to again. */
  begin(width: number, height: number): void {
    for (const texture of this.used.splice(0)) {
      if (texture.buffer) this.freeOf(texture.width, texture.height).push(texture);
      else this.gl.deleteTexture(texture.of);
    }
    this.size = [width, height];
  }

  /** The texture of a picture that was uploaded; drawn on a sheet only where that was not done before. */
  upload(picture: object | null, draw: () => OffscreenCanvas): Texture {
    const known = picture && this.uploaded.get(picture);
    const [width, height] = this.size;
    if (known && known.width === width && known.height === height) {
      this.uploaded.delete(picture);
      this.uploaded.set(picture, known);
      return known;
    }
    const { gl } = this;
    const texture = this.empty(width, height, null);
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA, gl.RGBA, gl.UNSIGNED_BYTE, draw());
    if (!picture) this.used.push(texture);
    else {
      if (known) gl.deleteTexture(known.of);
      this.keep(picture, texture);
    }
    return texture;
  }

  /** A texture that is made once. */
  kept(name: string, make: () => Texture): Texture {
    let texture = this.lasting.get(name);
    if (!texture) {
      texture = make();
      this.lasting.set(name, texture);
    }
    return texture;
  }

  /** The texture of a table of colours (half floats, red changing first), uploaded once. */
  table(key: object, size: number, points: Uint16Array): Texture {
    const known = this.uploaded.get(key);
    if (known) {
      this.uploaded.delete(key);
      this.uploaded.set(key, known);
      return known;
    }
    const { gl } = this;
    const of = gl.createTexture();
    gl.bindTexture(gl.TEXTURE_3D, of);
    gl.texParameteri(gl.TEXTURE_3D, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
    gl.texParameteri(gl.TEXTURE_3D, gl.TEXTURE_MAG_FILTER, gl.NEAREST);
    gl.pixelStorei(gl.UNPACK_PREMULTIPLY_ALPHA_WEBGL, false);
    gl.texImage3D(gl.TEXTURE_3D, 0, gl.RGBA16F, size, size, size, 0, gl.RGBA, gl.HALF_FLOAT, points);
    gl.pixelStorei(gl.UNPACK_PREMULTIPLY_ALPHA_WEBGL, true);
    const texture: Texture = { of, width: size, height: size, buffer: null, table: true };
    this.keep(key, texture);
    return texture;
  }

  /** Keep an upload, and give up those used longest ago. */
  private keep(key: object, texture: Texture): void {
    this.uploaded.set(key, texture);
    for (const [old, { of }] of this.uploaded) {
      if (this.uploaded.size <= KEPT) break;
      this.gl.deleteTexture(of);
      this.uploaded.delete(old);
    }
  }

  /** A texture of points, four bytes each, as they are. */
  ofPoints(points: Uint8Array, width: number, height: number): Texture {
    const { gl } = this;
    const texture = this.empty(width, height, null);
    gl.pixelStorei(gl.UNPACK_PREMULTIPLY_ALPHA_WEBGL, false);
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA8, width, height, 0, gl.RGBA, gl.UNSIGNED_BYTE, points);
    gl.pixelStorei(gl.UNPACK_PREMULTIPLY_ALPHA_WEBGL, true);
    return texture;
  }

  /** Run a shader over a picture, at the picture's size or another: `colour` gives a point's colour by its place. */
  pass(shader: string, picture: Texture, uniforms: Record<string, Uniform>, size?: [number, number]): Texture {
    const [width, height] = size ?? [picture.width, picture.height];
    const texture = this.freeOf(width, height).pop() ?? this.drawable(width, height);
    this.used.push(texture);
    this.draw(shader, picture, uniforms, texture);
    return texture;
  }

  /** A picture at the size that is being made, whatever its own is. */
  whole(picture: Texture): Texture {
    const [width, height] = this.size;
    return picture.width === width && picture.height === height ? picture : this.pass(AS_IT_IS, picture, {}, this.size);
  }

  /** Clear what is shown, so that pictures can be laid on it. */
  clear(): void {
    const { gl, canvas } = this;
    const [width, height] = this.size;
    if (canvas.width < width || canvas.height < height) {
      canvas.width = Math.max(canvas.width, width);
      canvas.height = Math.max(canvas.height, height);
    }
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
    gl.viewport(0, canvas.height - height, width, height);
    gl.clearColor(0, 0, 0, 1);
    gl.clear(gl.COLOR_BUFFER_BIT);
  }

  /** Lay a picture over what is shown. */
  lay(picture: Texture): void {
    const { gl } = this;
    gl.enable(gl.BLEND);
    gl.blendFunc(gl.ONE, gl.ONE_MINUS_SRC_ALPHA);
    this.draw(AS_IT_IS, picture, {}, null);
    gl.disable(gl.BLEND);
  }

  /** Copy what is shown to a canvas. */
  show(paper: CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D): void {
    const [width, height] = this.size;
    paper.drawImage(this.canvas, 0, 0, width, height, 0, 0, width, height);
  }

  private draw(shader: string, picture: Texture, uniforms: Record<string, Uniform>, to: Texture | null): void {
    const { gl } = this;
    const program = this.program(shader);
    // biome-ignore lint/correctness/useHookAtTopLevel: WebGL's own name, no hook.
    gl.useProgram(program.of);
    gl.bindFramebuffer(gl.FRAMEBUFFER, to?.buffer ?? null);
    const [width, height] = to ? [to.width, to.height] : this.size;
    // The shown picture lies at the canvas's top, whose rows count from the bottom.
    gl.viewport(0, to ? 0 : this.canvas.height - height, width, height);
    this.set(program, "upright", to ? 1 : -1);
    this.set(program, "size", [width, height]);
    let unit = 0;
    for (const [name, value] of Object.entries({ picture, ...uniforms })) {
      if (typeof value === "object" && "of" in value) {
        gl.activeTexture(gl.TEXTURE0 + unit);
        gl.bindTexture(value.table ? gl.TEXTURE_3D : gl.TEXTURE_2D, value.of);
        this.set(program, name, ["int", unit++]);
      } else this.set(program, name, value);
    }
    gl.activeTexture(gl.TEXTURE0);
    gl.drawArrays(gl.TRIANGLE_STRIP, 0, 4);
  }

  private set(program: Program, name: string, value: Exclude<Uniform, Texture>): void {
    const { gl } = this;
    let place = program.places.get(name);
    if (place === undefined) {
      place = gl.getUniformLocation(program.of, name);
      program.places.set(name, place);
    }
    if (typeof value === "number") gl.uniform1f(place, value);
    else if (value[0] === "int") gl.uniform1i(place, value[1]);
    else gl.uniform2f(place, value[0], value[1]);
  }

  private program(body: string): Program {
    const known = this.programs.get(body);
    if (known) return known;
    const { gl } = this;
    const of = gl.createProgram();
    for (const [kind, source] of [
      [gl.VERTEX_SHADER, VERTEX],
      [gl.FRAGMENT_SHADER, FRAGMENT(body)],
    ] as const) {
      const shader = gl.createShader(kind) as WebGLShader;
      gl.shaderSource(shader, source);
      gl.compileShader(shader);
      gl.attachShader(of, shader);
    }
    gl.bindAttribLocation(of, 0, "corner");
    gl.linkProgram(of);
    if (!gl.getProgramParameter(of, gl.LINK_STATUS)) throw new Error(`a step's shader: ${gl.getProgramInfoLog(of)}`);
    const program = { of, places: new Map() };
    this.programs.set(body, program);
    return program;
  }

  private freeOf(width: number, height: number): Texture[] {
    const key = `${width} ${height}`;
    let free = this.free.get(key);
    if (!free) {
      free = [];
      this.free.set(key, free);
    }
    return free;
  }

  private empty(width: number, height: number, buffer: WebGLFramebuffer | null): Texture {
    const { gl } = this;
    const of = gl.createTexture();
    gl.bindTexture(gl.TEXTURE_2D, of);
    for (const [name, value] of [
      [gl.TEXTURE_MIN_FILTER, gl.LINEAR],
      [gl.TEXTURE_MAG_FILTER, gl.LINEAR],
      [gl.TEXTURE_WRAP_S, gl.CLAMP_TO_EDGE],
      [gl.TEXTURE_WRAP_T, gl.CLAMP_TO_EDGE],
    ] as const)
      gl.texParameteri(gl.TEXTURE_2D, name, value);
    return { of, width, height, buffer };
  }

  private drawable(width: number, height: number): Texture {
    const { gl } = this;
    const buffer = gl.createFramebuffer();
    const texture = this.empty(width, height, buffer);
    gl.texStorage2D(gl.TEXTURE_2D, 1, this.format, width, height);
    gl.bindFramebuffer(gl.FRAMEBUFFER, buffer);
    gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, texture.of, 0);
    return texture;
  }
}

let only: Painter | null | undefined;

/** The page's painter; null where the browser has no WebGL2. */
export function painter(): Painter | null {
  if (only === undefined) only = typeof OffscreenCanvas === "undefined" ? null : Painter.make();
  return only;
}
