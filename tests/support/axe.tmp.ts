import { openBrowser } from './browser';
import { readFileSync } from 'node:fs';
const AXE = readFileSync('/work/main/node_modules/axe-core/axe.min.js', 'utf8');
const v = await openBrowser('http://127.0.0.1:42181');
try {
  await v.signIn('odile@saltreach.example', 'saltreach-kites');
  for (const step of process.argv.slice(2)) {
    const [path, js] = step.split('::');
    await v.go(path!);
    await v.driver.sleep(1200);
    if (js) {
      await v.driver.executeScript(js);
      await v.driver.sleep(1200);
    }
    await v.driver.executeScript(AXE);
    const f = (await v.driver.executeAsyncScript(
      `const done=arguments[0]; axe.run(document,{runOnly:['wcag2a','wcag2aa','wcag21a','wcag21aa','wcag22aa']}).then(({violations})=>done(violations.map(x=>x.id+': '+x.nodes.slice(0,4).map(n=>n.target.join(' ')+' '+(n.any[0]?.message??'')).join(' | '))));`,
    )) as string[];
    console.log(
      path,
      (js ?? '').slice(0, 30),
      f.map((x) => x.slice(0, 500)),
    );
    console.log((await v.complaints()).slice(0, 3));
  }
} finally {
  await v.quit();
}
