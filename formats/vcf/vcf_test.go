package vcf_test

import (
	"bytes"
	"errors"
	"io"
	"strings"
	"testing"
	"time"
	"unicode/utf8"

	"vividporch/core/card"
	"vividporch/core/event"
	"vividporch/core/people"
	"vividporch/formats/row"
	"vividporch/formats/vcf"
)

func read(t *testing.T, file string) (cards []row.Row) {
	t.Helper()
	r := vcf.NewReader(strings.NewReader(file), "quayside")
	for {
		in, err := r.Next()
		if errors.Is(err, io.EOF) {
			return cards
		}
		if err != nil {
			t.Fatal(err)
		}
		cards = append(cards, in)
	}
}

func TestCardsOfThreeDialectsAreRead(t *testing.T) {
	cards := read(t, strings.ReplaceAll(`BEGIN:VCARD
VERSION:2.1
N;ENCODING=QUOTED-PRINTABLE;CHARSET=ISO-8859-1:M=F6we;Lena
FN;CHARSET=UTF-8;QUOTED-PRINTABLE:Lena M=C3=B6we=
 of the pools
NICKNAME:limpet_lena
TEL;HOME;VOICE:+1 555
BDAY:19900514
NOTE;ENCODING=QUOTED-PRINTABLE:brings tea=0D=0Aand=3Dtides
END:VCARD

BEGIN:VCARD
VERSION:3.0
FN:Kelpwright
NICKNAME:kelpwright,kelp_wright
item1.IMPP;TYPE=home:fernlight:kelpwright
BDAY;VALUE=date:1988-03-09
CATEGORIES:prints,tea
NOTE:a long line that the program
  folded in the mid
 dle
TZ:+01:00
END:VCARD
BEGIN:VCARD
VERSION:4.0
FN:Sandhopper
IMPP;X-ID=8102:quayside:sandhopper9
BDAY:--0229
ANNIVERSARY:20290516
PRONOUNS:they/them
TZ:Europe/Lisbon
X-PORCH-CREW:Lantern Row
X-PORCH-STREAMS:1-3 9
END:VCARD
`, "\n", "\r\n"))
	if len(cards) != 3 {
		t.Fatalf("%d cards", len(cards))
	}
	for i, c := range cards {
		if c.Why != "" {
			t.Fatalf("card %d: %s", i+1, c.Why)
		}
	}
	a, b, c := cards[0].Card, cards[1].Card, cards[2].Card
	if cards[0].Name != "Lena Möweof the pools" && cards[0].Name != "Lena Möwe of the pools" || a.Accounts[0].Login != "limpet_lena" || a.Birthday.String() != "1990-05-14" || people.Text(a.Note) != "brings tea\r\nand=tides" {
		t.Errorf("2.1: %q %+v %q", cards[0].Name, a, people.Text(a.Note))
	}
	if b.Accounts[0].Platform != "fernlight" || b.Accounts[0].Was[0] != "kelp_wright" || len(b.Tags) != 2 || people.Text(b.Note) != "a long line that the program folded in the middle" || b.Zone != nil {
		t.Errorf("3.0: %+v %q", b, people.Text(b.Note))
	}
	if c.Accounts[0].Key() != "quayside:8102" || c.Birthday.String() != "--02-29" || people.Text(c.Pronouns) != "they/them" || len(c.Streams) != 4 || c.Crews[0] != "lantern-row" || c.Accounts[0].Followed.Year() != 2029 {
		t.Errorf("4.0: %+v", c)
	}
}

func TestABrokenCardIsRefusedAndTheNextOneRead(t *testing.T) {
	cards := read(t, "rubbish\nBEGIN:VCARD\nFN:never closed\nBEGIN:VCARD\nVERSION:4.0\nFN:no account\nEND:VCARD\nBEGIN:VCARD\nNICKNAME:x\nBDAY:yesterday\nEND:VCARD\nBEGIN:VCARD\nNICKNAME:big\nNOTE:"+
		strings.Repeat("n", 3<<20)+"\nEND:VCARD\nBEGIN:VCARD\nNICKNAME:q\nNOTE;CHARSET=NO-SUCH-SET:x\nEND:VCARD\nBEGIN:VCARD\nNICKNAME:good\nEND:VCARD\nBEGIN:VCARD\nNICKNAME:cut off")
	var why []string
	for _, c := range cards {
		why = append(why, c.Why)
	}
	for i, says := range []string{"no END", "IMPP and NICKNAME", "BDAY", "longer than 1 MB", "character set", "", "no END"} {
		if i >= len(why) || !strings.Contains(why[i], says) || says == "" && why[i] != "" {
			t.Errorf("card %d: %q, want %q", i+1, why[min(i, len(why)-1)], says)
		}
	}
}

func TestACardComesBackAsItWentOut(t *testing.T) {
	in := read(t, "BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Lena\\, of the pools\r\nIMPP;X-ID=8841:quayside:limpet_lena\r\nIMPP:fernlight:lena\r\nBDAY:--0514\r\nNOTE:one\\ntwo\\; three\r\nCATEGORIES:tea\r\nX-PORCH-TRUSTED:yes\r\nX-PORCH-CREW:Lantern Row\r\nEND:VCARD\r\n")[0]
	if in.Why != "" {
		t.Fatal(in.Why)
	}
	var out bytes.Buffer
	if err := vcf.NewWriter(&out, map[string]string{"lantern-row": "Lantern Row"}).Write(&in.Card); err != nil {
		t.Fatal(err)
	}
	if !strings.Contains(out.String(), "VERSION:4.0") || !strings.Contains(out.String(), "BDAY:--0514") {
		t.Errorf("%s", out.String())
	}
	again := read(t, out.String())[0]
	if again.Why != "" || len(card.Diff(&in.Card, &again.Card)) != 0 || len(card.Diff(&again.Card, &in.Card)) != 0 || people.Text(again.Card.Note) != "one\ntwo; three" {
		t.Errorf("%s %+v", out.String(), again)
	}
}

func TestOtherPeoplesTextMakesNoPropertyAndListsKeepTheirCommas(t *testing.T) {
	followed := time.Date(2030, 2, 3, 4, 5, 6, 0, time.UTC)
	note, zone := "one; two\rEND:VCARD\r\nX-PORCH-TRUSTED:yes", "Europe/Lisbon"
	var c card.Card
	c.Accounts = []card.Account{{Person: event.Person{Platform: "quayside", ID: "1", Login: "ada", Name: "Ada\rX-PORCH-TRUSTED:yes"}},
		{Person: event.Person{Platform: "fernlight", ID: "f-1", Login: "ada_f"}, Followed: &followed, Was: []string{"ada_old", "ada_older"}}}
	c.Note, c.Zone, c.Tags = &note, &zone, []string{"tea, with milk", "a b", strings.Repeat("潮", 60)}
	var out bytes.Buffer
	if err := vcf.NewWriter(&out, nil).Write(&c); err != nil {
		t.Fatal(err)
	}
	for l := range strings.SplitSeq(out.String(), "\r\n") {
		if len(l) > 75 || !utf8.ValidString(l) || strings.ContainsAny(l, "\r\n") {
			t.Errorf("%d octets: %q", len(l), l)
		}
	}
	if strings.Contains(out.String(), "\nX-PORCH-TRUSTED") {
		t.Errorf("a name adds a property:\n%s", out.String())
	}
	back := read(t, out.String())
	if len(back) != 1 || back[0].Why != "" {
		t.Fatalf("%+v", back)
	}
	got := back[0].Card
	if strings.Join(got.Tags, "|") != strings.Join(c.Tags, "|") || people.Text(got.Note) != "one; two\nEND:VCARD\nX-PORCH-TRUSTED:yes" || got.Trusted != nil {
		t.Errorf("%q %q", got.Tags, people.Text(got.Note))
	}
	if len(got.Accounts) != 2 || got.Accounts[1].Followed == nil || !got.Accounts[1].Followed.Equal(followed) || strings.Join(got.Accounts[1].Was, " ") != "ada_old ada_older" {
		t.Errorf("%+v", got.Accounts)
	}
	list := read(t, "BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Bo\r\nIMPP:quayside:bo\r\nCATEGORIES:tea\\, cold,kelp\r\nURL:a\\;b\r\nEND:VCARD\r\n")
	if tags := list[0].Card.Tags; strings.Join(tags, "|") != "tea, cold|kelp" {
		t.Errorf("%q", tags)
	}
}
