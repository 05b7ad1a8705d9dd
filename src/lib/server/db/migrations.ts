import { firstTables } from './migrations/001-first-tables';
import { intake } from './migrations/002-intake';
import { doors } from './migrations/003-doors';
import { leftOut } from './migrations/004-left-out';
import { braces } from './migrations/005-braces';
import { formatKeys } from './migrations/007-format-keys';
import { signatures } from './migrations/008-signatures';
import { descriptions } from './migrations/009-descriptions';
import { oneReading } from './migrations/010-one-reading';
import { reasons } from './migrations/006-reasons';
import { registry } from './migrations/011-registry';
import { reading } from './migrations/012-reading';
import { bursts } from './migrations/013-bursts';
import { lists } from './migrations/014-lists';
import { positions } from './migrations/015-positions';
import { filing } from './migrations/016-filing';
import { copying } from './migrations/017-copying';
import { moving } from './migrations/018-moving';
import { deaf } from './migrations/019-deaf';
import { noting } from './migrations/020-noting';
import { refused } from './migrations/021-refused';
import { sight } from './migrations/022-sight';

/** In their order, for ever: a migration that has landed is never edited. */
export const MIGRATIONS: { name: string; statements: string }[] = [
  { name: '001-first-tables', statements: firstTables },
  { name: '002-intake', statements: intake },
  { name: '003-doors', statements: doors },
  { name: '004-left-out', statements: leftOut },
  { name: '005-braces', statements: braces },
  { name: '006-reasons', statements: reasons },
  { name: '007-format-keys', statements: formatKeys },
  { name: '008-signatures', statements: signatures },
  { name: '009-descriptions', statements: descriptions },
  { name: '010-one-reading', statements: oneReading },
  { name: '011-registry', statements: registry },
  { name: '012-reading', statements: reading },
  { name: '013-bursts', statements: bursts },
  { name: '014-lists', statements: lists },
  { name: '015-positions', statements: positions },
  { name: '016-filing', statements: filing },
  { name: '017-copying', statements: copying },
  { name: '018-moving', statements: moving },
  { name: '019-deaf', statements: deaf },
  { name: '020-noting', statements: noting },
  { name: '021-refused', statements: refused },
  { name: '022-sight', statements: sight },
];
