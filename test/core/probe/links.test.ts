import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { linksInJson, linksInPage, linksInScript, linksInStyle } from '../../../src/core/probe/links.js';
import { readableText } from '../../../src/core/probe/rendered.js';
import type { Link } from '../../../src/core/probe/resource.js';

const at = 'https://shop.example/app/';
const shown = ({ url, kind, isCors, isGuess }: Link) =>
  `${url.replace('https://shop.example', '')} ${kind}${isCors ? ' cors' : ''}${isGuess ? ' guess' : ''}`;

describe('pages', () => {
  test.each<[title: string, html: string, loads: string[]]>([
    [
      'scripts',
      '<script src="a.js"></script><script type="module" src="/b.js"></script>',
      ['/app/a.js script', '/b.js script cors'],
    ],
    [
      'preloads',
      '<link rel="modulepreload" href="./c.js"><link rel=preload as=font href=f.woff2>',
      ['/app/c.js script cors', '/app/f.woff2 font cors'],
    ],
    [
      'style, icon, manifest',
      '<link rel="stylesheet" href="s.css" crossorigin><link rel="shortcut icon" href=i.ico><link rel=manifest href=m.webmanifest>',
      ['/app/s.css style cors', '/app/i.ico image', '/app/m.webmanifest manifest'],
    ],
    ['a base', '<base href="/v2/"><script src="a.js"></script>', ['/v2/a.js script']],
    ['an inline script', '<script type=module>import("./lazy.js")</script>', ['/app/lazy.js script cors']],
    [
      'nothing of other kinds',
      '<a href="mailto:x@y.example">x</a><link rel=stylesheet href="data:text/css,"><script src="blob:x"></script>',
      [],
    ],
    ['another host', '<script src="https://cdn.example/x.js"></script>', ['https://cdn.example/x.js script']],
    ['user names in URLs are left out', '<script src="https://a:b@cdn.example/x.js"></script>', []],
  ])('%s', (_, html, loads) => expect(linksInPage(html, at).loads.map(shown)).toEqual(loads));

  test('links to other pages, without fragments', () => {
    expect(linksInPage('<a href="fares#top">x</a><a href="https://other.example/">y</a>', at).links).toEqual([
      'https://shop.example/app/fares',
      'https://other.example/',
    ]);
  });
});

describe('scripts', () => {
  const script = `${at}assets/main-3f2a9c11.js`;
  test.each<[title: string, text: string, links: string[]]>([
    [
      'imports',
      'import{a}from"./a-1.js";import("../b.js");import"/c.mjs"',
      ['/app/assets/a-1.js script cors', '/app/b.js script cors', '/c.mjs script cors'],
    ],
    [
      'the list of preloads that a bundler writes',
      'm.f=["assets/x-1.js","assets/x-1.css"]',
      ['/app/assets/x-1.js script cors guess', '/app/assets/x-1.css style guess'],
    ],
    ['a service worker', 'navigator.serviceWorker.register("/sw.js")', ['/sw.js worker guess']],
    [
      'chunks with names and hashes',
      'u=e=>"js/"+({7:"map"}[e]||e)+"."+{7:"abc123",9:"def456"}[e]+".js"',
      ['/app/js/map.abc123.js script cors guess', '/app/js/9.def456.js script cors guess'],
    ],
    [
      'chunks with hashes',
      'u=e=>""+e+"-"+{5:"0f0f"}[e]+".chunk.js"',
      ['/app/assets/5-0f0f.chunk.js script cors guess'],
    ],
    ['a source map', 'x();\n//# sourceMappingURL=main.js.map', ['/app/assets/main.js.map map']],
    ['packages and text', 'import"react";f("lodash.js is big","a b.js")', []],
    ['escaped slashes', 'f("https:\\/\\/shop.example\\/d.json")', ['/d.json data guess']],
  ])('%s', (_, text, links) => expect(linksInScript(text, script, at).map(shown)).toEqual(links));
});

test('style sheets and manifests', () => {
  expect(
    linksInStyle('@import "b.css";@font-face{src:url(f.woff2)}a{background:url("data:x")}', `${at}s.css`).map(shown),
  ).toEqual(['/app/f.woff2 font cors', '/app/b.css style']);
  expect(
    linksInJson('{"main":{"file":"assets/a.js","css":["assets/a.css"]},"text":"no path"}', `${at}m.json`, at).map(
      shown,
    ),
  ).toEqual(['/app/assets/a.js script guess', '/app/assets/a.css style guess']);
});

test('any text gives absolute URLs of the web, or none', () => {
  fc.assert(
    fc.property(fc.string(), (text) => {
      const links = [
        ...linksInPage(`<script src="${text}"></script><link rel=stylesheet href=${text}>${text}`, at).loads,
        ...linksInScript(`import("${text}.js");${text}`, at, at),
        ...linksInStyle(`url(${text})`, at),
        ...linksInJson(text, at, at),
      ];
      for (const { url } of links) expect(new URL(url).protocol).toMatch(/^https?:$/);
    }),
  );
});

test('the readable text of a page has no scripts, and whole texts', () => {
  expect(
    readableText('<h1 title="Late">North Quay &amp; Pier</h1><script>hidden()</script><style>a{}</style>end'),
  ).toBe('Late\nNorth Quay & Pier\nend');
});

test.each([
  ['one long word', 'a'.repeat(2_000_000)],
  ['open functions', 'url('.repeat(300_000)],
  ['open maps', '{7:"a"}[e]+'.repeat(100_000)],
  ['quotes', '"a"+'.repeat(300_000)],
  ['words with sums', 'e+"."+'.repeat(200_000)],
  ['imports', '@import "'.repeat(200_000)],
])('no text takes long: %s', (_, text) => {
  const links = [
    ...linksInScript(text, at, at),
    ...linksInStyle(text, at),
    ...linksInPage(`<script>${text}`, at).loads,
  ];
  expect(links.length).toBeLessThanOrEqual(200_000);
});
