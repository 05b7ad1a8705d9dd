import { describe, expect, it } from 'vitest';
import { groundProblem, locationOf, parseMounts } from '#core/holdings/grounds';

const MOUNTINFO = `22 27 0:21 / /proc rw,relatime - proc proc rw
27 1 8:1 / / rw,relatime - ext4 /dev/sda1 rw
30 27 8:17 / /mnt/card rw,relatime - vfat /dev/sdb1 rw
31 27 8:1 /home/keeper/archive /mnt/twice\\040seen rw,relatime - ext4 /dev/sda1 rw
32 27 8:1 /home/keeper/archive/postgres /srv/deep/inside rw,relatime - ext4 /dev/sda1 rw
33 27 8:1 /home/keeper/.keys /mnt/keys rw,relatime - ext4 /dev/sda1 rw
a line nobody understands
`;
const mounts = parseMounts(MOUNTINFO);
const closed = [
  { path: '/home/keeper/archive', called: 'the data folder' },
  { path: '/etc', called: 'a folder of the system' },
  { path: '/run', called: 'a folder of the system' },
];
const problem = (path: string): string | null => groundProblem(path, closed, mounts);

describe('grounds', () => {
  it('read the mounts, with escaped names and without what nobody understands', () => {
    expect(mounts).toHaveLength(6);
    expect(mounts[3]).toEqual({
      device: '8:1',
      root: '/home/keeper/archive',
      point: '/mnt/twice seen',
    });
    expect(locationOf('/mnt/card/DCIM', mounts)).toBe('8:17:/DCIM');
    expect(locationOf('/mnt/card', mounts)).toBe('8:17:/');
    expect(locationOf('/mnt/twice seen/a', mounts)).toBe('8:1:/home/keeper/archive/a');
    expect(locationOf('/mnt/cardigan', mounts)).toBe('8:1:/mnt/cardigan');
  });

  it.each([
    ['/mnt/card', null],
    ['/mnt/card/DCIM/100', null],
    ['/srv/photos', null],
    ['/home/keeper/pictures', null],
    ['/run/media/keeper/CARD', null],
    ['/home/keeper/archive', 'is the data folder'],
    ['/home/keeper/archive/postgres', 'lies in the data folder'],
    ['/home/keeper', 'contains the data folder'],
    ['/', 'contains the data folder'],
    ['/etc/ssl', 'lies in a folder of the system'],
    ['/run/user', 'lies in a folder of the system'],
    ['/home/keeper/.ssh', 'lies in a hidden folder'],
    ['/mnt/card/.Trash/a', 'lies in a hidden folder'],
    // The same folders by another mount.
    ['/mnt/twice seen', 'lies in the data folder'],
    ['/mnt/twice seen/cache', 'lies in the data folder'],
    ['/srv', 'contains the data folder'],
    ['/srv/deep', 'contains the data folder'],
    ['/srv/deep/inside', 'lies in the data folder'],
    ['/mnt/keys', 'lies in a hidden folder'],
    ['/mnt', 'contains the data folder'],
  ])('%s: %s', (path, expected) => {
    expect(problem(path)).toBe(expected);
  });

  it('decide by paths alone where the system tells no mounts', () => {
    expect(groundProblem('/home/keeper/archive/x', closed, [])).toBe('lies in the data folder');
    expect(groundProblem('/mnt/card', closed, [])).toBeNull();
  });
});
