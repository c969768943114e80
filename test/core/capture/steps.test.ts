import { expect } from 'chai';
import { InputError } from '../../../src/core/capture/errors';
import { readSteps, stepSecrets, stepText } from '../../../src/core/capture/steps';

const read = (steps: unknown) => readSteps(JSON.stringify({ steps }), 'login.json');
const LOGIN = { open: 'https://www.fernhollow.example/login/' };

describe('core/capture/steps', () => {
  it('reads what is to be done', () => {
    const steps = read([
      LOGIN,
      { fill: '#name', value: 'ivy' },
      { fill: '#password', env: 'GARDEN_PASSWORD' },
      { click: 'button' },
      { wait: '.account' },
    ]);
    expect(steps.map(stepText)).to.deep.equal([
      'open https://www.fernhollow.example/login/',
      'fill #name',
      'fill #password',
      'click button',
      'wait .account',
    ]);
    expect([...stepSecrets(steps, { GARDEN_PASSWORD: 'moss' })]).to.deep.equal([['GARDEN_PASSWORD', 'moss']]);
    expect(() => stepSecrets(steps, {})).to.throw(InputError, 'GARDEN_PASSWORD is not set');
  });

  it('says what is wrong, and where', () => {
    const where = (steps: unknown) => {
      try {
        read(steps);
        return undefined;
      } catch (error) {
        expect(error).to.be.instanceOf(InputError);
        return (error as InputError).where;
      }
    };
    expect(where([])).to.equal('login.json.steps');
    expect(where([{ click: 'a' }])).to.equal('login.json.steps[0]');
    expect(where([{ open: 'file:///etc/passwd' }])).to.equal('login.json.steps[0].open');
    expect(where([LOGIN, {}])).to.equal('login.json.steps[1]');
    expect(where([LOGIN, { fill: '#a' }])).to.equal('login.json.steps[1]');
    expect(where([LOGIN, { fill: '#a', value: 'b', env: 'C' }])).to.equal('login.json.steps[1]');
    expect(where([LOGIN, { click: 3 }])).to.equal('login.json.steps[1].click');
    expect(() => readSteps('nothing', 'x')).to.throw(InputError);
  });
});
