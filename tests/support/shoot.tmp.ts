import { openBrowser } from './browser';
const v = await openBrowser('http://127.0.0.1:4180');
try {
  if (!process.env.GUEST) await v.signIn('odile@saltreach.example', 'saltreach-kites');
  for (const step of process.argv.slice(2)) {
    const [path, name, js] = step.split('::');
    await v.go(path!);
    await v.driver.sleep(2500);
    if (js) {
      await v.driver.executeScript(js);
      await v.driver.sleep(1500);
    }
    await v.shoot(`/tmp/s-${name}.png`);
    const c = await v.complaints();
    if (c.length) console.log(name, c.slice(0, 5));
  }
} finally {
  await v.quit();
}
