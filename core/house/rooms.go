package house

import (
	"vividporch/core/along"
	"vividporch/core/arrive"
	"vividporch/core/bookmark"
	"vividporch/core/command"
	"vividporch/core/count"
	"vividporch/core/day"
	"vividporch/core/desk"
	"vividporch/core/draw"
	"vividporch/core/fetched"
	"vividporch/core/guard"
	"vividporch/core/hello"
	"vividporch/core/neighbour"
	"vividporch/core/note"
	"vividporch/core/opening"
	"vividporch/core/outcome"
	"vividporch/core/overlay"
	"vividporch/core/points"
	"vividporch/core/presence"
	"vividporch/core/privacy"
	"vividporch/core/raid"
	"vividporch/core/regulars"
	"vividporch/core/relay"
	"vividporch/core/room"
	"vividporch/core/social"
	"vividporch/core/thank"
	"vividporch/core/timer"
)

// Rooms are the rooms of the house, in the order in which they decide.
var Rooms = []room.Room{
	guard.Room,
	along.Room,
	opening.Room,
	neighbour.Room,
	privacy.Room,
	arrive.Room,
	command.Room,
	hello.Room,
	raid.Room,
	presence.Room,
	thank.Room,
	desk.Room,
	overlay.Room,
	count.Room,
	fetched.Room,
	outcome.Room,
	regulars.Room,
	day.Room,
	timer.Room,
	relay.Room,
	note.Room,
	draw.Room,
	points.Room,
	bookmark.Room,
	social.Room,
}
