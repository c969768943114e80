import { imageSize } from 'image-size';

/** Width and height of a picture in its own points. */
export interface PictureSize {
  readonly width: number;
  readonly height: number;
}

/** Reads a picture's size from its first bytes; undefined for what is no picture. */
export function pictureSize(bytes: Uint8Array): PictureSize | undefined {
  try {
    const { width, height } = imageSize(bytes);
    return width > 0 && height > 0 ? { width, height } : undefined;
  } catch {
    return undefined;
  }
}
