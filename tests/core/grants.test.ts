import { describe, expect, it } from 'vitest';
import { KINDS } from '#core/kinds/kinds';
import { leaves, ROOM_SIZES, savable, type Leaving, type RoomSize } from '#core/rooms/grants';
import { withoutPaths } from '#core/text/paths';

const GRANTS: RoomSize[][] = [[], ['2048'], ['original'], ['original', '2048']];
const ALL: Leaving[] = ['original', 'picture-2048', 'picture-1200', 'picture-small', 'proxy'];

describe('what leaves a room', () => {
  it('is never an original that was not granted, of whatever kind', () => {
    for (const kind of KINDS)
      for (const granted of GRANTS)
        expect(leaves(granted, kind, 'original')).toBe(granted.includes('original'));
  });

  it('is a picture of 1200 px and a proxy where nothing was granted', () => {
    for (const kind of KINDS) {
      const plays = kind === 'footage' || kind === 'sound';
      expect(ALL.filter((wish) => leaves([], kind, wish))).toEqual(
        plays ? ['picture-1200', 'picture-small', 'proxy'] : ['picture-1200', 'picture-small'],
      );
      expect(savable([], kind)).toEqual([]);
      expect(savable(['2048'], kind)).toEqual(plays ? [] : ['2048']);
      expect(savable([...ROOM_SIZES], kind)).toEqual(plays ? ['original'] : [...ROOM_SIZES]);
    }
  });
});

describe('sentences without paths', () => {
  it.each([
    ['“/srv/Wind Week/a b.jpg” is not there.', '“a b.jpg” is not there.'],
    ['ffmpeg: /tmp/mindful/x.mov: Invalid data', 'ffmpeg: x.mov: Invalid data'],
    ["open '/mnt/card/DCIM/1.jpg' failed", "open '1.jpg' failed"],
    ['24/7 and 1/2 stay, as does a/b', '24/7 and 1/2 stay, as does a/b'],
    ['“Studio shelf” stays', '“Studio shelf” stays'],
  ])('%s', (sentence, expected) => {
    expect(withoutPaths(sentence)).toBe(expected);
  });
});
