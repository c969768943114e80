import sharp from 'sharp';
import { object, string } from 'yup';
import { InputError } from '../../../../core/capture/errors';
import { store } from '../../../../engine/services/openedStore';
import { readLanguage } from '../../../../engine/services/languages';
import { folderOfStore } from '../../../../engine/store/location';
import { findSite, saveSiteLook, siteLook } from '../../../../engine/store/sites';
import { body, idOf, json, notFound, route } from '../../_answer';

const schema = object({
  /** Tag of the language of reports. */
  language: string().max(40).default('en'),
  firm: string().trim().max(120).default(''),
  colour: string()
    .matches(/^(#[0-9a-f]{6})?$/i, 'A colour is written like #0b6a66.')
    .default(''),
  foreword: string().max(4000).default(''),
  /** Any picture as base64; empty for none. */
  logo: string().max(3_000_000, 'The logo is larger than 2 MB.').default(''),
});

/** Pixels of a logo at most, as it is kept. */
const LOGO = { width: 480, height: 160 };

/** How the reports of a site look. */
export const GET = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  return json((await siteLook(db, site.id)) ?? { firm: '', colour: '', foreword: '', logo: '', language: 'en' });
});

/** Sets it. A logo is drawn anew: nothing but its pixels is kept. */
export const PUT = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  const input = await body(context, schema);
  // Refused here, where it is asked for.
  await readLanguage(input.language, await folderOfStore(db));
  await saveSiteLook(db, site.id, { ...input, logo: input.logo ? await redrawn(input.logo) : '' });
  return json(await siteLook(db, site.id));
});

async function redrawn(base64: string): Promise<string> {
  try {
    const png = await sharp(Buffer.from(base64, 'base64'), { limitInputPixels: 40_000_000, pages: 1 })
      .resize({ ...LOGO, fit: 'inside', withoutEnlargement: true })
      .png()
      .toBuffer();
    return png.toString('base64');
  } catch {
    throw new InputError('The logo is no picture that can be read.', 'logo', 'Choose a PNG, JPEG, WebP or SVG file.');
  }
}
