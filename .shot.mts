import { chromium } from 'playwright';
import { PASSWORD } from './demo/firm.ts';
const [login, ...paths] = process.argv.slice(2);
const b = await chromium.launch({executablePath:'/usr/bin/chromium',args:['--no-sandbox','--disable-gpu']});
const c = await b.newContext({viewport:{width:1280,height:800}}); const p = await c.newPage(); c.setDefaultTimeout(8000);
const base='http://127.0.0.1:4999';
await p.goto(base+'/sign-in'); await p.getByLabel('Sign-in name').fill(login); await p.getByLabel('Password',{exact:true}).fill(PASSWORD); await p.getByRole('button',{name:'Sign in'}).click(); await p.waitForURL(base+'/');
for (const x of paths) { const [path,name]=x.split('='); await p.goto(base+path); await p.waitForTimeout(700);
 if (name==='mo') { const e=p.getByRole('group',{name:/Meter WM/}).first(); const f=p.getByLabel('First serial, count').first(); await f.fill('WM-0207, 3'); await f.press('Enter'); await p.waitForTimeout(1500); }
 await p.screenshot({path:`/tmp/shots/${name}.png`}); if(name.endsWith('t')||name==='mo') console.log((await p.locator('main').innerText()).slice(0,2500)); }
await b.close();
