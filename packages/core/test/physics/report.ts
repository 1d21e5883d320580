// `npm run physics`: runs every experiment at full size and writes docs/physics.md with its pictures.
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { defaultThreads } from '@bramblemist/core/io/node/thread-pool';
import { EXPERIMENTS, isWithin } from './all';
import type { Chart, Figure } from './kit';

/** A chart as SVG. */
async function draw(chart: Chart): Promise<string> {
  const [vega, lite] = [await import('vega'), await import('vega-lite')];
  const rows = (points: boolean): object[] =>
    chart.curves
      .filter((c) => Boolean(c.points) === points)
      .flatMap((c) => c.at.map(([x, y]) => ({ x, y, curve: c.name })));
  const scale = chart.log ? { type: 'log' as const, nice: false } : { zero: false };
  const encoding = {
    x: { field: 'x', type: 'quantitative' as const, title: chart.x, scale },
    y: { field: 'y', type: 'quantitative' as const, title: chart.y, scale },
    color: { field: 'curve', type: 'nominal' as const, title: null, sort: chart.curves.map((c) => c.name) },
  };
  const { spec } = lite.compile({
    title: chart.title,
    width: 460,
    height: 260,
    background: 'white',
    layer: [
      {
        data: { values: rows(false) as Record<string, unknown>[] },
        mark: { type: 'line', point: chart.curves[0].at.length < 12 },
        encoding,
      },
      {
        data: { values: rows(true) as Record<string, unknown>[] },
        mark: { type: 'point', filled: true, size: 45 },
        encoding,
      },
    ],
  });
  return new vega.View(vega.parse(spec), { renderer: 'none' }).toSVG();
}

function number(v: number): string {
  if (v === 0 || Number.isInteger(v)) return String(v);
  return Math.abs(v) < 0.001 || Math.abs(v) >= 1e5 ? v.toExponential(1) : v.toPrecision(3);
}

function band({ least, most }: Figure): string {
  if (least !== undefined && most !== undefined) return `${number(least)} … ${number(most)}`;
  if (least !== undefined) return `at least ${number(least)}`;
  return most !== undefined ? `at most ${number(most)}` : 'reported';
}

async function main(): Promise<void> {
  const only = process.argv.slice(2);
  const docs = 'docs';
  const lines: string[] = [];
  mkdirSync(join(docs, 'physics'), { recursive: true });
  let outside = 0;
  for (const [key, experiment] of Object.entries(EXPERIMENTS)) {
    if (only.length && !only.includes(key)) continue;
    const start = performance.now();
    const { figures, charts = [] } = experiment.run('full', defaultThreads());
    lines.push(
      `## ${experiment.name}`,
      '',
      experiment.about,
      '',
      '| figure | value | band | |',
      '| --- | ---: | --- | --- |',
    );
    for (const f of figures) {
      const within = isWithin(f);
      if (!within) outside++;
      const bounded = f.least !== undefined || f.most !== undefined;
      const verdict = within ? 'within' : '**outside**';
      lines.push(`| ${f.what} | ${number(f.value)} | ${band(f)} | ${bounded ? verdict : ''} |`);
      console.log(`${within ? '  ' : '! '}${f.what}: ${number(f.value)} (${band(f)})`);
    }

    lines.push('');
    for (const chart of charts) {
      writeFileSync(join(docs, 'physics', `${chart.file}.svg`), await draw(chart));
      lines.push(`![${chart.title}](physics/${chart.file}.svg)`, '');
    }

    console.log(`${experiment.name}: ${((performance.now() - start) / 1000).toFixed(1)} s\n`);
  }

  if (only.length === 0) {
    const head = [
      '# The physics, checked',
      '',
      'Written by `npm run physics`: every experiment at full size, with the band that its figures ' +
        'have to lie in. Smaller sizes of the same experiments are part of `npm test`.',
      '',
    ];
    writeFileSync(join(docs, 'physics.md'), [...head, ...lines].join('\n'));
  }

  console.log(
    outside === 0 ? 'All figures lie within their bands.' : `${outside} figures lie outside of their bands.`,
  );
  process.exitCode = outside === 0 ? 0 : 1;
}

void main();
