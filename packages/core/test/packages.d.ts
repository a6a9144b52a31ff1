declare module 'bunny' {
  const mesh: { positions: number[][]; cells: number[][] };
  export default mesh;
}
declare module 'teapot' {
  const mesh: { positions: number[][]; cells: number[][] };
  export default mesh;
}
declare module 'jsts/org/locationtech/jts/geom/GeometryFactory.js' {
  export default class GeometryFactory {}
}
declare module 'jsts/org/locationtech/jts/io/GeoJSONReader.js' {
  import type GeometryFactory from 'jsts/org/locationtech/jts/geom/GeometryFactory.js';
  export interface JstsGeometry {
    getArea(): number;
  }
  export default class GeoJSONReader {
    constructor(factory: GeometryFactory);
    read(json: unknown): JstsGeometry;
  }
}
declare module 'jsts/org/locationtech/jts/operation/buffer/BufferOp.js' {
  import type { JstsGeometry } from 'jsts/org/locationtech/jts/io/GeoJSONReader.js';
  const op: { bufferOp(geometry: JstsGeometry, distance: number, quadrantSegments: number): JstsGeometry };
  export default op;
}
