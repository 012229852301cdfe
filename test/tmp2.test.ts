import { test } from 'vitest';
import { chooseWindows } from '../src/core/history/windows.js';
import { hashWindows, byteWindows } from '../src/core/history/hashes.js';
import { wasmGrams } from '../src/core/search/kernel/wasm.js';
test('x',()=>{
 const key=Buffer.alloc(16,7);
 for(const [v,t] of [['1arV5KJUBR3jG8W4','var a="MWFyVjVLSlVCUjNqRzhXNA";more()'],['1arV5KJUBR3jG8W4',' "MWFyVjVLSlVCUjNqRzhXNA" '],['1arV5KJUBR3jG8W4',' "1arV5KJUBR3jG8W4" '],['1arV5KJUBR3jG8W4abcdefgh','var a="'+Buffer.from('1arV5KJUBR3jG8W4abcdefgh').toString('base64')+'";more()']]){
  const w=byteWindows([{key,values:[hashWindows(key,Buffer.from(v!),chooseWindows(Buffer.from(v!))!)]}])!;
  const m=wasmGrams([],4096,undefined,undefined,w);const hits:any[]=[];m.start();const b=Buffer.from(t!);m.window.set(b);m.feed(b.length,(n,s,e)=>hits.push([n,s,e]));
  console.log(v,w.widths,w.strides,JSON.stringify(hits));
 }});
