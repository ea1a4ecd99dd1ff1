import { expect, test } from '@jest/globals';
import { saidIn } from './upgrade';

const rate = (num: number) => ({ type: 'rate', rate: { num, den: 1 } });
const said = (field: string, value: unknown) => ({ field, value, source: 'person' });

test('what a person said comes out of recorded clips; the rate that stills are set to is nobody’s word', () => {
  const jobs = [
    { id: 'a', intake: { stillsRate: 24 } },
    { id: 'b', intake: {} },
  ];
  const clips = [
    {
      id: '1',
      job: 'a',
      kind: 'video',
      statements: [said('rate', rate(24)), said('scene', { type: 'text', text: '12' })],
    },
    {
      id: '2',
      job: 'a',
      kind: 'stills',
      statements: [said('rate', rate(24)), said('comment', { type: 'text', text: 'x' })],
    },
    { id: '3', job: 'a', kind: 'stills', statements: [said('rate', rate(12))] },
    { id: '4', job: 'b', kind: 'stills', statements: [said('rate', rate(25))] },
    { id: '5', job: 'b', kind: 'video' },
  ];
  expect(saidIn(clips, jobs)).toEqual([
    { clip: '1', field: 'rate', value: rate(24) },
    { clip: '1', field: 'scene', value: { type: 'text', text: '12' } },
    { clip: '2', field: 'comment', value: { type: 'text', text: 'x' } },
    { clip: '3', field: 'rate', value: rate(12) },
  ]);
});
