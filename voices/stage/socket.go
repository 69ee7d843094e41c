package stage

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"net/http"

	"github.com/coder/websocket"

	"vividporch/core/fitting"
	"vividporch/core/pointer"
)

// passedOver is how many messages of a fitting may be about something else before its answer.
const passedOver = 200

// converse tells a fitting one thing over a WebSocket of its own: greeted, told, answered.
func (s *Stage) converse(ctx context.Context, t task, v fitting.Values, secret string, body []byte) (answer, error) {
	h := http.Header{"User-Agent": {"vivid-porch"}}
	if err := prove(t.By, h, secret, "", nil); err != nil {
		return answer{}, err
	}
	conn, res, err := websocket.Dial(ctx, t.Address, &websocket.DialOptions{HTTPClient: s.cfg.HTTP, HTTPHeader: h})
	if err != nil {
		if res != nil && res.StatusCode != http.StatusSwitchingProtocols {
			return answer{}, fmt.Errorf("it answered %d", res.StatusCode)
		}
		return answer{}, fmt.Errorf("it does not answer: %w", err)
	}
	defer conn.CloseNow()
	conn.SetReadLimit(bodyMost)
	if g := t.By.Greeting; g != nil {
		if err := greet(ctx, conn, g, secret); err != nil {
			return answer{}, err
		}
	}
	if err := conn.Write(ctx, websocket.MessageText, body); err != nil {
		return answer{}, cutOff(err)
	}
	for range passedOver {
		message, err := hear(ctx, conn)
		if err != nil {
			return answer{}, err
		}
		if !v.Holds(t.By.Answer.Of, message) {
			continue
		}
		was, reason, refused := v.Judge(&t.By.Answer, message)
		if refused {
			return answer{}, fmt.Errorf("%s", cmp.Or(short(reason), "it answered that it did not"))
		}
		conn.Close(websocket.StatusNormalClosure, "")
		return answer{was: short(was)}, nil
	}
	return answer{}, errors.New("it spoke of other things and did not answer")
}

func greet(ctx context.Context, conn *websocket.Conn, g *fitting.Greeting, secret string) error {
	var first any
	if g.Waits {
		var err error
		if first, err = hear(ctx, conn); err != nil {
			return err
		}
	}
	words, err := fitting.Values{"secret": secret, "proof": g.Prove(secret, first)}.Body(g.Say)
	if err != nil {
		return err
	}
	if words != nil {
		if err := conn.Write(ctx, websocket.MessageText, words); err != nil {
			return cutOff(err)
		}
	}
	if g.Welcome == nil {
		return nil
	}
	message, err := hear(ctx, conn)
	if err == nil && !(fitting.Values{}).Holds(g.Welcome, message) {
		return errors.New("it does not let the house in: look at its secret")
	}
	return err
}

func hear(ctx context.Context, conn *websocket.Conn) (any, error) {
	_, raw, err := conn.Read(ctx)
	if err != nil {
		return nil, cutOff(err)
	}
	message, err := pointer.Read(raw)
	if err != nil {
		return nil, fmt.Errorf("it answered with what is no JSON")
	}
	return message, nil
}

func cutOff(err error) error {
	if status := websocket.CloseStatus(err); status != -1 {
		return fmt.Errorf("it hung up (%d)", status)
	}
	return fmt.Errorf("it does not answer: %w", err)
}
