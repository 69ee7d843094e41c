package irc_test

import (
	"fmt"

	"vividporch/doors/irc"
)

// A line of a network with message tags is read, and written again.
func ExampleParseMessage() {
	m, err := irc.ParseMessage(`@account-id=8841;display-name=Limpet\sLena :limpet_lena!lena@quay PRIVMSG #tidepool_hours :low water at nine`)
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(m.Tags["display-name"], "says in", m.Params[0]+":", m.Params[1])
	fmt.Println(m.String())
	// Output:
	// Limpet Lena says in #tidepool_hours: low water at nine
	// @account-id=8841;display-name=Limpet\sLena :limpet_lena!lena@quay PRIVMSG #tidepool_hours :low water at nine
}
