package keeping

import (
	"bytes"
	"net/http"

	"github.com/labstack/echo/v5"

	"vividporch/api/edge"
	"vividporch/core/housefile"
	"vividporch/formats/commands"
	"vividporch/spec"
)

// GetCommands answers GET /api/commands.
func (k *Keeping) GetCommands(c *echo.Context, in spec.GetCommandsParams) error {
	var list []commands.Command
	for i := range k.house.Plan().Whole.Courtesy {
		if one, ok := commands.Of(&k.house.Plan().Whole.Courtesy[i]); ok {
			list = append(list, one)
		}
	}
	var b bytes.Buffer
	write, name, kind := commands.CSV, "commands.csv", "text/csv; charset=utf-8"
	if in.Format == spec.GetCommandsParamsFormatJSON {
		write, name, kind = commands.JSON, "commands.json", "application/json"
	}
	if err := write(&b, list); err != nil {
		return err
	}
	c.Response().Header().Set("Content-Disposition", `attachment; filename="`+name+`"`)
	return c.Blob(http.StatusOK, kind, b.Bytes())
}

func commandsIn(in spec.CommandsFile) ([]commands.Row, error) {
	rows, err := commands.Read([]byte(in.Text))
	if err != nil {
		return nil, edge.Problem(http.StatusUnprocessableEntity, "This list cannot be read", err.Error()+".")
	}
	return rows, nil
}

// LookAtCommands answers POST /api/commands/look.
func (k *Keeping) LookAtCommands(c *echo.Context) error {
	var in spec.CommandsFile
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	rows, err := commandsIn(in)
	if err != nil {
		return err
	}
	out := spec.CommandsLooked{Rows: []spec.CommandRow{}}
	for _, r := range commands.Against(k.house.Plan().Whole, rows) {
		v := spec.CommandRow{Row: r.N, Name: r.Name, Answer: r.Command.Answer, Becomes: spec.CommandRowBecomes(r.Becomes), Why: r.Why, Off: r.Command.Off, Blanks: []spec.ForeignBlank{}}
		for _, b := range r.Blanks {
			v.Blanks = append(v.Blanks, spec.ForeignBlank{Was: b.Was, As: b.As})
		}
		out.Rows = append(out.Rows, v)
	}
	return c.JSON(http.StatusOK, out)
}

// TakeCommands answers POST /api/commands/take. What cannot be taken is left out; all else comes in
// as one change, which can be undone.
func (k *Keeping) TakeCommands(c *echo.Context) error {
	var in spec.CommandsFile
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	rows, err := commandsIn(in)
	if err != nil {
		return err
	}
	var out spec.CommandsTaken
	v, err := k.house.Desk.ChangeSettings(c.Request().Context(), edge.By(c), "a list of commands was taken in", func(set *housefile.Settings) error {
		out.Taken, out.Refused = commands.Take(set, rows, in.Without)
		return nil
	})
	if err != nil {
		return edge.InForce(c, k.house, v, err)
	}
	out.Version = v
	return c.JSON(http.StatusOK, out)
}
