import { ConcernFindings } from '../concern/ConcernFindings';
import { ConcernHead } from '../concern/ConcernHead';
import { island } from '../frame/island';
import { HeroGallery } from './HeroGallery';

/** Hero: a gallery of first screens with where their time goes; and findings by cause. */
function HeroScreen() {
  return (
    <>
      <ConcernHead concern="hero" />
      <HeroGallery />
      <h2>Findings by cause</h2>
      <ConcernFindings concern="hero" />
    </>
  );
}

export default island(HeroScreen, 'recordings');
