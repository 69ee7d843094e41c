package rehearsal_test

import (
	"os"
	"strings"

	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/rehearsal"
)

// An evening of two lines is lived against a house file, with nobody in the guest book yet.
func Example() {
	settings, err := housefile.ReadSettings([]byte(`{"format": 3, "channel": "tidepool_hours", "zone": "UTC", "seed": "low water",
		"doors": [{"name": "quayside", "kind": "irc", "platform": "quayside", "address": "127.0.0.1:6667", "room": "#tidepool_hours", "account": "porchlamp"}],
		"courtesies": [{"id": "welcome", "on": true, "when": "arrival", "slot": "greeting", "offLine": true,
			"do": [{"id": "chat", "kind": "say", "delaySeconds": 3, "alternatives": ["Welcome, {name}!"]}]}]}`))
	if err != nil {
		os.Stdout.WriteString(err.Error())
		return
	}
	plan, _ := house.Ready(settings, 1)
	script, err := rehearsal.ReadScript(strings.NewReader(`
{"specversion":"1.0","id":"1","source":"script","type":"porch.chat.said","time":"2031-05-14T19:00:00Z","data":{"person":{"platform":"quayside","id":"8841","login":"limpet_lena"},"text":"evening"}}
{"specversion":"1.0","id":"2","source":"script","type":"porch.chat.said","time":"2031-05-14T19:01:00Z","data":{"person":{"platform":"quayside","id":"8841","login":"limpet_lena"},"text":"low water soon"}}
`))
	if err != nil {
		os.Stdout.WriteString(err.Error())
		return
	}
	if err := rehearsal.Write(os.Stdout, "text", plan, rehearsal.NewBook(), script); err != nil {
		os.Stdout.WriteString(err.Error())
	}
	// Output:
	// 19:00:03  say   quayside    welcome                Welcome, limpet_lena!
	//                                       because is for anyone; first line while no stream is on
	// 3 events, 1 arrivals, 1 lines said, 0 posts, 0 other effects, 0 not done; house share 33%
}
