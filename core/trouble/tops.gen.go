// Made by make_tops.py; do not edit.
//
// Top-level domains of the Public Suffix List (https://publicsuffix.org), Mozilla Public License 2.0, as Debian's package
// publicsuffix has it.

package trouble

const tops = `
ac ad ae af ag agency ai al am ao app aq ar art as at au aw ax az ba bar bb bd be best bet bf bg bh bi bid bio biz bj blog bm bn bo bond br bs bt bv
bw by bz ca cafe cam camp cash casino cc cd center cf cg ch chat ci city ck cl click cloud club cm cn co codes com community company cool cr cu cv cw
cx cy cz date de deals design dev digital directory dj dk dm do download dz ec edu ee eg email er es et eu events expert express fans fi finance fit
fj fk fm fo foundation fr fun fund fyi ga gallery game games gb gd ge gf gg gh gi gift gifts gives giving gl global gm gn gold gov gp gq gr group gs
gt gu guide guru gw gy help hk hm hn host hosting house hr ht hu icu id ie il im in inc info ink institute int international io iq ir irish is it je
jm jo jp ke kg kh ki kim km kn kp kr kw ky kz la land lat lb lc legal li life link live lk loan lol love lr ls lt ltd lu lv ly ma market mba mc md me
media men mg mh mil mk ml mm mn mo mobi moda mom money monster mp mq mr ms mt mu mv mw mx my mz na name nc ne net network news nf ng ni nl no np nr nu
nz om one online org pa page party pe pf pg ph photo photos pics pizza pk pl plus pm pn poker pr press pro promo ps pt pub pw py qa quest racing radio
re red rent report rest review reviews rip ro rocks rs ru run rw sa sale sb sc school science sd se services sg sh shop show si site sj sk sl sm sn so
social software solutions space sport sr ss st store stream studio style su support surf sv sx sy systems sz tc td team tech tf tg th tj tk tl tm tn
to today tools top tours town toys tr trade training travel tt tube tv tw tz ua ug uk uno us uy uz va vc ve vegas vg vi video vip vn vote vu webcam
website wf wiki win work works world ws wtf xyz ye yoga yt zm zone zw ελ ευ бг бел ею мкд рф срб укр қаз հայ الاردن السعودية المغرب امارات ایران تونس
سورية عمان فلسطين قطر مصر پاکستان भारत বাংলা ලංකා ไทย გე 中国 中國 台湾 台灣 新加坡 澳門 香港 한국
`
