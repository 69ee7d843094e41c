package main

import (
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
)

// drawn is how smoothly a page is drawn: frames a second, and the frame that is slower than
// 99 of a hundred, in ms.
type drawn struct{ Fps, Slow float64 }

// pageFigures has the Porch drawn under fifty lines a second, and an empty page beside it
// in the same browser.
func pageFigures(bin string) ([]figure, error) {
	cmd := exec.Command("node", "smooth.mjs")
	cmd.Dir, cmd.Stderr = "e2e", os.Stderr
	cmd.Env = append(os.Environ(), "PORCH_BIN="+bin)
	raw, err := cmd.Output()
	if err != nil {
		return nil, fmt.Errorf("the page: %w", err)
	}
	var got struct {
		Empty, Porch, Bare drawn
		Lines              float64
		Book               struct{ Empty float64 }
		Overlay            struct {
			drawn
			Before, After struct{ Nodes, Heap float64 }
		}
	}
	if err := json.Unmarshal(raw, &got); err != nil {
		return nil, fmt.Errorf("the page: %w: %s", err, raw)
	}
	beside := fmt.Sprintf("%.0f lines a second; an empty page draws %.1f, its slow frame is %.1f ms", got.Lines, got.Empty.Fps, got.Empty.Slow)
	return []figure{
		{what: "frames a second on the Porch, of those of an empty page", got: got.Porch.Fps / got.Empty.Fps, aim: 0.9, least: true, alongside: beside},
		{what: "a slow frame (99 of 100 are quicker) there, beside three of an empty page", got: got.Porch.Slow, aim: 3 * got.Empty.Slow, unit: "ms"},
		{what: "rows of the guest book stand empty, scrolling 2,000 pixels a second: longest", got: got.Book.Empty, aim: 150, unit: "ms"},
		{what: "frames a second on an overlay over a minute, of those of an empty page", got: got.Overlay.Fps / got.Bare.Fps, aim: 0.9, least: true, alongside: fmt.Sprintf("%.1f and %.1f", got.Overlay.Fps, got.Bare.Fps)},
		{what: "nodes of its page after 3,000 lines", got: got.Overlay.After.Nodes, aim: 1000},
		{what: "its heap after them, beside before", got: got.Overlay.After.Heap / (1 << 20), aim: got.Overlay.Before.Heap/(1<<20) + 10, unit: "MB"},
	}, nil
}
