import type { TruthPage } from '../site';
import { ledger } from './ledger';
import { letters } from './letters';
import { terrace } from './terrace';
import { parade } from './parade';
import { planner } from './planner';
import { panorama } from './panorama';
import { almanac } from './almanac';
import { archive } from './archive';
import { bulletin } from './bulletin';
import { catalogue } from './catalogue';
import { diary } from './diary';
import { essay } from './essay';
import { exhibition } from './exhibition';
import { herald } from './herald';
import { noticeboard } from './noticeboard';
import { film } from './film';
import { gate } from './gate';
import { glasshouse } from './glasshouse';
import { home } from './home';
import { lanes } from './lanes';
import { lectures } from './lectures';
import { membership } from './membership';
import { nursery } from './nursery';
import { orchids } from './orchids';
import { OUTSIDERS } from './outsiders';
import { plantSale } from './plantSale';
import { pressings } from './pressings';
import { rotunda } from './rotunda';
import { seasons } from './seasons';
import { seedshop } from './seedshop';
import { shop } from './shop';
import { tickets } from './tickets';
import { walks } from './walks';
import { welcome } from './welcome';
import { workshops } from './workshops';

/** The truth set; which third is held back from fitting was settled before anything was measured. */
export const TRUTH_PAGES: readonly TruthPage[] = [
  glasshouse,
  archive,
  plantSale,
  orchids,
  membership,
  home,
  seasons,
  lectures,
  tickets,
  catalogue,
  shop,
  gate,
  lanes,
  walks,
  workshops,
  diary,
  nursery,
  film,
  ledger,
  letters,
  terrace,
  parade,
  planner,
  panorama,
  bulletin,
  welcome,
  pressings,
  almanac,
  rotunda,
  seedshop,
  essay,
  exhibition,
  herald,
  noticeboard,
  ...OUTSIDERS,
];
