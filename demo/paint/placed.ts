import { LIGHTS } from './light';
import { random } from './random';
import { CANVAS, type Scene } from './scenes';
import {
  boat,
  bunting,
  figure,
  grass,
  groyne,
  kite,
  KITE_SHAPES,
  line,
  panel,
  rgb,
  SAILS,
  shears,
  spool,
  tent,
} from './things';

const { width: W, height: H } = CANVAS;

export interface Moment {
  /** Which arrangement of things. */
  seed: number;
  /** Seconds within a burst: things move a little. */
  t: number;
}

/** What is in the picture besides the ground, as SVG. */
export function paintThings({ subject, light: lightName }: Scene, { seed, t }: Moment): string {
  const r = random(seed);
  const light = LIGHTS[lightName];
  const dark = lightName === 'night' || lightName === 'blue' || lightName === 'ember';
  const sail = () => SAILS[r.int(0, SAILS.length - 1)]!;
  const green = rgb([light.tint[0] * 0.36, light.tint[1] * 0.42, light.tint[2] * 0.24]);
  const drift = Math.sin(t * 2.1 + seed) * 26;
  const flying = (
    low: number,
    high: number,
    count: number,
    smallest: number,
    largest: number,
    glow = 0,
  ): { svg: string; at: [number, number][] } => {
    const at: [number, number][] = [];
    const parts = Array.from({ length: count }, (_, index) => {
      const size = r.between(smallest, largest) * (index === 0 ? 1 : r.between(0.28, 0.62));
      const x =
        W * (index === 0 ? r.between(0.24, 0.7) : r.between(0.08, 0.92)) +
        drift * (1 + index * 0.4);
      const y = H * r.between(low, high) + drift * 0.5;
      at.push([x, y]);
      return kite({
        x,
        y,
        size,
        shape: r.pick(KITE_SHAPES),
        sail: sail(),
        turn: r.between(-24, 24) + drift * 0.2,
        seed: seed + index * 7,
        glow,
      });
    });
    return { svg: parts.reverse().join(''), at };
  };
  switch (subject) {
    case 'dunes': {
      const { svg, at } = flying(0.18, 0.34, r.int(1, 3), 190, 330);
      const fx = W * r.between(0.3, 0.75);
      const tufts = Array.from({ length: 9 }, () =>
        grass(
          r.between(0, W),
          H * r.between(0.84, 1.0),
          r.between(70, 190),
          46,
          green,
          r.int(0, 9999),
          0.3,
        ),
      );
      return `${line(at[0]![0], at[0]![1] + 40, fx - 26, H * 0.755)}${svg}${figure(fx, H * 0.8, r.between(96, 130), r.pick(SAILS)[0], 'flying', seed, dark)}${tufts.join('')}`;
    }
    case 'flats': {
      const { svg, at } = flying(0.12, 0.34, r.int(2, 5), 150, 270);
      const people = Array.from({ length: r.int(1, 4) }, (_, index) => {
        const x = W * r.between(0.12, 0.88);
        const y = H * r.between(0.69, 0.84);
        const h = (y / H - 0.55) * 560;
        const coat = r.pick(SAILS)[0];
        const thread =
          index < at.length ? line(at[index]![0], at[index]![1] + 30, x, y - h * 0.9, 0.35) : '';
        return `${thread}<g transform="translate(0 ${2 * y}) scale(1 -1)" opacity=".3">${figure(x, y, h, coat, 'flying', seed + index, dark)}</g>${figure(x, y, h, coat, r.pick(['flying', 'walking', 'standing']), seed + index, dark)}`;
      });
      return svg + people.join('');
    }
    case 'harbour': {
      const boats = Array.from({ length: r.int(2, 5) }, () => {
        const y = H * r.between(0.57, 0.74);
        return [
          y,
          boat(
            W * r.between(0.1, 0.95),
            y,
            40 + (y / H - 0.55) * 900,
            rgb(light.sandShade, 0.6),
            rgb(light.cloudLit, 0.96),
          ),
        ] as const;
      }).sort((a, b) => a[0] - b[0]);
      const { svg } = flying(0.1, 0.36, r.int(1, 3), 130, 260);
      return `${boats.map(([, drawn]) => drawn).join('')}${svg}${groyne(W * r.between(-0.04, 0.2), H * 1.02, W * r.between(0.4, 0.62), H * 0.585, dark ? '#231f22' : '#5c4a3a', seed)}`;
    }
    case 'sky':
      return flying(0.36, 0.56, r.int(1, 4), 360, 560).svg;
    case 'sea': {
      const { svg } = flying(0.1, 0.3, r.int(1, 2), 170, 300);
      return svg + boat(W * r.between(0.2, 0.8), H * 0.47, 90, '#2b2a2c', rgb(light.cloudLit));
    }
    case 'night': {
      const { svg } = flying(0.2, 0.55, r.int(3, 6), 170, 300, 1);
      const crowd = Array.from({ length: 16 }, () =>
        figure(
          r.between(0, W),
          H * r.between(0.95, 1.0),
          r.between(110, 170),
          '#181c26',
          'standing',
          r.int(0, 9999),
          true,
        ),
      );
      return svg + crowd.join('');
    }
    case 'festival': {
      const tents = Array.from({ length: r.int(3, 5) }, (_, index) =>
        tent(
          W * (0.08 + index * 0.22 + r.between(0, 0.06)),
          H * r.between(0.78, 0.83),
          r.between(190, 300),
          [r.pick(SAILS)[0], '#f3ebd9'],
        ),
      );
      const crowd = Array.from({ length: 34 }, () => H * r.between(0.8, 1.02))
        .sort((a, b) => a - b)
        .map((y) =>
          figure(
            r.between(0, W),
            y,
            90 + (y / H - 0.8) * 620,
            r.pick(SAILS)[r.int(0, 3)]!,
            r.pick(['standing', 'walking', 'standing']),
            r.int(0, 9999),
            dark,
          ),
        );
      const { svg } = flying(0.12, 0.34, r.int(4, 7), 150, 260);
      const y = H * 0.42;
      return `${svg}${tents.join('')}${bunting(-40, y, W * 0.52, y + 90, sail(), 44)}${bunting(W * 0.5, y + 90, W + 40, y - 60, sail(), 52)}${crowd.join('')}`;
    }
    case 'flyer': {
      const sailHere = sail();
      const x = W * r.between(0.3, 0.68);
      const kx = x + W * r.between(-0.2, 0.22);
      return `${line(kx, H * 0.36, x - 60, H * 0.6, 0.4)}${kite({ x: kx, y: H * 0.28 + drift, size: 300, shape: r.pick(KITE_SHAPES), sail: sailHere, turn: r.between(-20, 20), seed })}${figure(x, H * 0.97, H * 0.5, sailHere[0], 'flying', seed, dark || r.next() < 0.4)}${Array.from({ length: 8 }, () => grass(r.between(0, W), H * 1.01, r.between(110, 260), 50, green, r.int(0, 9999))).join('')}`;
    }
    case 'grass': {
      const svg = kite({
        x: W * r.between(0.3, 0.7) + drift,
        y: H * r.between(0.2, 0.4),
        size: r.between(130, 190),
        shape: r.pick(KITE_SHAPES),
        sail: sail(),
        turn: r.between(-20, 20),
        seed,
        blur: 8,
      });
      const blades = Array.from({ length: 7 }, (_, index) =>
        grass(
          W * r.between(-0.02, 1.02),
          H * 1.04,
          r.between(480, 900),
          index < 3 ? 16 : 30,
          green,
          r.int(0, 9999),
          0.3,
        ),
      );
      return `${svg}<g opacity=".55">${blades.slice(0, 3).join('')}</g>${blades.slice(3).join('')}`;
    }
    case 'bench': {
      const panels = Array.from({ length: r.int(5, 8) }, () =>
        panel(
          W * r.between(-0.05, 0.8),
          H * r.between(-0.05, 0.7),
          r.between(340, 760),
          r.between(260, 620),
          r.pick(SAILS)[r.int(0, 4)]!,
          r.between(-40, 40),
          r.pick(['square', 'triangle', 'kite']),
        ),
      );
      return `${panels.join('')}${shears(W * r.between(0.25, 0.75), H * r.between(0.4, 0.7), 520, r.between(-70, 70))}${Array.from({ length: 4 }, () => spool(W * r.between(0.06, 0.94), H * r.between(0.1, 0.9), r.between(120, 170), r.pick(SAILS)[r.int(0, 4)]!, r.between(-60, 60))).join('')}`;
    }
    case 'table': {
      const k = kite({
        x: W * r.between(0.4, 0.6),
        y: H * 0.47,
        size: r.between(560, 720),
        shape: r.pick(['diamond', 'six', 'bow', 'delta']),
        sail: sail(),
        turn: r.between(-30, 30),
        seed,
        tail: false,
      });
      const spars = Array.from(
        { length: 3 },
        () =>
          `<path d="M${r.int(0, W)} ${r.int(-40, 300)}l${r.int(-900, 900)} ${r.int(900, 1500)}" stroke="#6b4f36" stroke-width="15" stroke-linecap="round"/><path d="M${r.int(0, W)} 0" />`,
      );
      return `<g opacity=".97"><filter id="cast" x="-20%" y="-20%" width="140%" height="140%"><feGaussianBlur stdDeviation="16"/></filter><g transform="translate(26 34)" filter="url(#cast)" opacity=".3"><g style="filter:brightness(0)">${k.replaceAll(/fill="#[0-9a-f]{6}"/g, 'fill="#000000"').replaceAll(/id="|url\(#/g, (found) => `${found}cast-`)}</g></g>${spars.join('')}${k}${shears(W * r.between(0.1, 0.9), H * r.between(0.6, 0.85), 420, r.between(-90, 90))}</g>`;
    }
    case 'reels':
      return Array.from({ length: r.int(9, 15) }, (_, index) =>
        spool(
          W * (0.1 + (index % 5) * 0.2) + r.between(-50, 50),
          H * (0.18 + Math.floor(index / 5) * 0.32) + r.between(-30, 30),
          r.between(210, 270),
          r.pick(SAILS)[r.int(0, 4)]!,
          r.between(-12, 12),
        ),
      ).join('');
    case 'rolls': {
      const rows = [0.3, 0.64, 0.98];
      return rows
        .map((row) => {
          const rolls = Array.from({ length: 9 }, (_, index) => {
            const radius = r.between(92, 128);
            const x = 150 + index * 262 + r.between(-14, 14);
            const y = H * row - radius;
            const colour = r.pick(SAILS)[r.int(0, 4)]!;
            const turns = Array.from(
              { length: 8 },
              (_, ring) =>
                `<circle cx="${x}" cy="${y}" r="${(radius * (1 - ring * 0.1)).toFixed(1)}" fill="none" stroke="#000" stroke-opacity="${ring % 2 ? 0.18 : 0.07}" stroke-width="4"/>`,
            );
            return `<circle cx="${x + 8}" cy="${y + 10}" r="${radius}" fill="#000" opacity=".3"/><circle cx="${x}" cy="${y}" r="${radius}" fill="${colour}"/>${turns.join('')}<circle cx="${x}" cy="${y}" r="${radius * 0.22}" fill="#b99a72"/><circle cx="${x}" cy="${y}" r="${radius * 0.15}" fill="#3b3026"/>`;
          });
          return `<rect x="0" y="${H * row}" width="${W}" height="34" fill="#7b5b3d"/><rect x="0" y="${H * row + 34}" width="${W}" height="20" fill="#000" opacity=".22"/>${rolls.join('')}`;
        })
        .join('');
    }
    case 'pattern': {
      const ink = lightName === 'clear' ? '#33506b' : '#e8eef0';
      const grid = Array.from(
        { length: 33 },
        (_, at) =>
          `<path d="M${at * 75} 0V${H}M0 ${at * 75}H${W}" stroke="${ink}" stroke-opacity="${at % 4 ? 0.1 : 0.25}" stroke-width="2"/>`,
      );
      const shapes = Array.from({ length: 3 }, (_, at) => {
        const s = r.between(300, 460);
        const x = W * (0.22 + at * 0.29);
        const y = H * r.between(0.4, 0.58);
        return `<g transform="translate(${x.toFixed(0)} ${y.toFixed(0)}) rotate(${r.between(-14, 14).toFixed(1)})" fill="none" stroke="${ink}"><path d="M0 ${-s}L${s * 0.62} ${-s * 0.2}L0 ${s}L${-s * 0.62} ${-s * 0.2}Z" stroke-width="6"/><path d="M0 ${-s * 0.93}L${s * 0.56} ${-s * 0.2}L0 ${s * 0.9}L${-s * 0.56} ${-s * 0.2}Z" stroke-width="3" stroke-dasharray="18 12"/><path d="M0 ${-s}V${s}M${-s * 0.62} ${-s * 0.2}H${s * 0.62}" stroke-width="3"/><circle r="${s * 0.2}" cy="${-s * 0.2}" stroke-width="3"/></g>`;
      });
      return `${grid.join('')}${shapes.join('')}<g transform="translate(${W * 0.12} ${H * 0.88}) rotate(-4)"><rect width="1500" height="88" fill="#d9b65c"/><rect width="1500" height="88" fill="none" stroke="#7a6120" stroke-width="3"/>${Array.from({ length: 60 }, (_, at) => `<path d="M${at * 25} 0v${at % 5 ? 22 : 42}" stroke="#5c4815" stroke-width="3"/>`).join('')}</g>${shears(W * r.between(0.75, 0.88), H * 0.62, 420, r.between(-30, 40))}`;
    }
    case 'cloth':
      return `<g>${r.next() < 0.6 ? spool(W * r.between(0.2, 0.8), H * r.between(0.25, 0.75), 300, r.pick(SAILS)[r.int(0, 4)]!, r.between(-50, 50)) : shears(W * r.between(0.3, 0.7), H * 0.6, 620, r.between(-60, 60))}</g>`;
  }
}
