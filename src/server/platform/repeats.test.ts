import { expect, jest, test } from '@jest/globals';
import { Repeats } from './repeats';

test('a look that is under way is not begun a second time, but once more after it where it was asked for; one that failed is said, and the next comes', async () => {
  jest.useFakeTimers();
  const said = jest.spyOn(console, 'error').mockImplementation(() => undefined);
  const repeats = new Repeats();
  try {
    const looks: { end: () => void; fail: (e: Error) => void }[] = [];
    const look = () =>
      new Promise<void>((end, fail) => {
        looks.push({ end, fail });
      });
    const again = repeats.every(1000, 'pairs', look, { atOnce: true });
    void again();
    void again();
    expect(looks).toHaveLength(1);
    await jest.advanceTimersByTimeAsync(5000);
    expect(looks).toHaveLength(1);
    looks[0]!.end();
    await jest.advanceTimersByTimeAsync(0);
    expect(looks).toHaveLength(2);
    looks[1]!.fail(new Error('no disk'));
    await jest.advanceTimersByTimeAsync(0);
    expect(looks).toHaveLength(2);
    expect(said).toHaveBeenCalledWith('pairs:', 'no disk');
    await jest.advanceTimersByTimeAsync(1000);
    expect(looks).toHaveLength(3);
    void again();
    repeats.end();
    looks[2]!.end();
    await jest.advanceTimersByTimeAsync(5000);
    expect(looks).toHaveLength(3);
  } finally {
    repeats.end();
    said.mockRestore();
    jest.useRealTimers();
  }
});
