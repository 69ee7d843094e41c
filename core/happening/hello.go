package happening

var hello = &Happening{Type: Hello, Words: "a hello said to the room", Lane: Asks, Slots: []Slot{Answer, Free}}
