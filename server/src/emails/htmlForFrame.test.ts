import { describe, expect, test } from '@jest/globals';
import { htmlForFrame } from './htmlForFrame';

const body = (html: string, remote = false): string => /<body>([\s\S]*)<\/body>/.exec(htmlForFrame(html, [], remote))?.[1] ?? '';

describe('htmlForFrame', () => {
  test.each([
    ['a script', '<p>a</p><script>alert(1)</script>', '<p>a</p>'],
    ['an event handler', '<p onclick="x()">a</p>', '<p>a</p>'],
    ['a script address', '<a href="javascript:x()">a</a>', '<a target="_blank" rel="noopener noreferrer nofollow">a</a>'],
    ['a form', '<form action="/x"><input name="a"><button>b</button></form>', 'b'],
    ['a frame', '<iframe src="http://x.example"></iframe>', ''],
    ['a style sheet', '<style>p{background:url(http://x.example)}</style><link rel="stylesheet" href="http://x.example">', ''],
    ['an SVG', '<svg onload="x()"><script>y()</script></svg>', ''],
    ['a base', '<base href="http://x.example"><meta http-equiv="refresh" content="0;url=http://x.example">', ''],
  ])('takes out %s', (_, html, expected) => {
    expect(body(html)).toBe(expected);
  });

  test('keeps remote pictures away until asked, and counts them', () => {
    const html = '<img src="https://pixel.example/a.gif" alt="x">';
    expect(htmlForFrame(html, [], false)).toContain('<meta name="remote-blocked" content="1">');
    expect(body(html)).not.toContain('pixel.example');
    expect(body(html, true)).toContain('src="https://pixel.example/a.gif"');
  });

  test('a style cannot load anything', () => {
    expect(body('<p style="color:red;background-image:url(http://x.example)">a</p>')).toBe('<p style="color:red">a</p>');
  });

  test('puts pictures of the email itself in place', () => {
    const picture = { name: 'a.png', type: 'image/png', size: 1, contentId: 'one', inline: true, content: new Uint8Array([1]) };
    expect(htmlForFrame('<img src="cid:one">', [picture], false)).toContain('src="data:image/png;base64,AQ=="');
  });

  test('leaves out what stands deeper in others than any program nests it, and no more', () => {
    expect(body(`before ${'<div>'.repeat(1_500)}within`)).toMatch(/^before (?:<div>)+(?:<\/div>)+$/);
    const flat = '<p>a<p>b<div>c</div><ul><li>d<li>e</ul><br>'.repeat(1_500);
    expect(body(`${flat}after`)).toContain('after');
  });
});
