package atom_test

import (
	"encoding/xml"
	"strings"
	"testing"
	"time"

	"vividporch/formats/atom"
)

// read is a feed as a reader has it that knows RFC 4287.
type read struct {
	XMLName xml.Name `xml:"http://www.w3.org/2005/Atom feed"`
	ID      string   `xml:"id"`
	Title   string   `xml:"title"`
	Updated string   `xml:"updated"`
	Author  struct {
		Name string `xml:"name"`
	} `xml:"author"`
	Entries []struct {
		ID      string `xml:"id"`
		Title   string `xml:"title"`
		Updated string `xml:"updated"`
		Content struct {
			Type string `xml:"type,attr"`
			Text string `xml:",chardata"`
		} `xml:"content"`
	} `xml:"entry"`
}

func TestAFeedIsReadAsItWasWritten(t *testing.T) {
	now := time.Date(2031, 5, 14, 19, 0, 0, 0, time.FixedZone("", 3600))
	var out strings.Builder
	long := strings.Repeat("kelp ", 40)
	err := atom.Write(&out, atom.Feed{ID: "tag:porch.example,2031:feed", Title: "tidepool_hours", Link: "https://quayside.example/tidepool_hours", Made: now},
		[]atom.Entry{{"tag:porch.example,2031:2", now, "<b>Lena</b> & @all said ]]> \x0b\nand more"}, {"tag:porch.example,2031:1", now.Add(-time.Hour), long}})
	if err != nil {
		t.Fatal(err)
	}
	var f read
	if err := xml.Unmarshal([]byte(out.String()), &f); err != nil {
		t.Fatalf("%v\n%s", err, out.String())
	}
	if f.ID == "" || f.Title != "tidepool_hours" || f.Updated != "2031-05-14T18:00:00Z" || f.Author.Name == "" || len(f.Entries) != 2 {
		t.Errorf("%+v", f)
	}
	if e := f.Entries[0]; e.Content.Type != "text" || !strings.HasPrefix(e.Content.Text, "<b>Lena</b> & @all said ]]>") || strings.Contains(e.Title, "\n") || e.Updated != "2031-05-14T18:00:00Z" {
		t.Errorf("%+v", e)
	}
	if n := len([]rune(f.Entries[1].Title)); n != 80 {
		t.Errorf("a title of %d letters", n)
	}
}
