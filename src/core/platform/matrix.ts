/** A matrix by H.273's name as FFmpeg's scaler takes it; `auto` where it has none of that name: what the decoder says counts. */
export const scaleMatrix = (matrix: string | null): string =>
  ({
    bt709: 'bt709',
    bt2020nc: 'bt2020',
    smpte170m: 'smpte170m',
    smpte240m: 'smpte240m',
    bt470bg: 'bt470',
    fcc: 'fcc',
  })[matrix ?? ''] ?? 'auto';

/** The matrix a picture of so many lines was made by, for FFmpeg's scaler: where it does not say, BT.709 from 720 lines on, BT.601 below (common practice). */
export const matrixBy = (stated: string | null, lines: number | null): string =>
  scaleMatrix(stated ?? ((lines ?? 0) >= 720 ? 'bt709' : 'smpte170m'));

/** For FFmpeg's scaler: to the colours of a JPEG, which has Y′CbCr by BT.601 in full range (ITU-T T.871). */
export const toJpeg = (matrix: string): string =>
  `in_color_matrix=${matrix}:out_color_matrix=smpte170m:out_range=full`;
