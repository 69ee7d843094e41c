// Package demo is the sample world as data: the channel tidepool_hours, its house
// file, the people it knows, and an evening of about twenty-five minutes.
//
// evening.jsonl and people.jsonl are made by demo/make from world.go; a test
// holds them to it.
package demo

import "embed"

//go:generate go run ./make

// The files of the sample world.
var (
	//go:embed house.json
	House []byte
	//go:embed evening.jsonl
	Evening []byte
	//go:embed people.jsonl
	People []byte
	// Shelf holds its pictures, sounds and films, in the folder shelf.
	//go:embed shelf
	Shelf embed.FS
)
