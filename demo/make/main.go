// Command make writes the sample world's evening and people into demo/.
package main

import (
	"log"
	"os"
	"path/filepath"

	"vividporch/demo/world"
)

func main() {
	dir := "."
	if _, err := os.Stat("demo"); err == nil {
		dir = "demo"
	}
	for name, raw := range map[string][]byte{"evening.jsonl": world.Evening(), "people.jsonl": world.People()} {
		if err := os.WriteFile(filepath.Join(dir, name), raw, 0o644); err != nil {
			log.Fatal(err)
		}
	}
}
