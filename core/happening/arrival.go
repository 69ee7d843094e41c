package happening

var arrival = &Happening{Type: Arrival, Words: "someone's first line", Lane: Arrives, Slots: []Slot{Greeting, ShoutOut, Free}}
