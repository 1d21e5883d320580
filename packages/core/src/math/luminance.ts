/** Parts of linear red, green and blue in what light weighs to the eye (ITU-R BT.709). */
export const LUMINANCE = [0.2126, 0.7152, 0.0722] as const;

export const luminanceOf = (red: number, green: number, blue: number): number =>
  LUMINANCE[0] * red + LUMINANCE[1] * green + LUMINANCE[2] * blue;
