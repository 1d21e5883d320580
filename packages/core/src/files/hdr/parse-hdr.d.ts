declare module 'parse-hdr' {
  /** Red, green, blue, alpha of each pixel, linear, top row first. */
  export default function parseHdr(bytes: Uint8Array): {
    shape: [width: number, height: number];
    data: Float32Array;
  };
}
