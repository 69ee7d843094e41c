package keeping

import (
	"net/http"

	"github.com/labstack/echo/v5"
)

// GetFetched answers GET /api/house/fetched.
func (k *Keeping) GetFetched(c *echo.Context) error {
	texts, err := k.house.Fetched(c.Request().Context())
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, texts)
}
