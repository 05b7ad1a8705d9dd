import { runTool } from '#server/tools/run';

/** A process of its own whose tool nearly runs out of time: whoever stops it meanwhile lets that time go by. */
console.log('begun');
await runTool('sleep', ['3'], { seconds: 5 });
console.log('done');
