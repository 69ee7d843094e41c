// Package relay carries posts to places: an HTTP request with a JSON body, signed
// as a Standard Webhook, delivered at least once with an idempotency key. The
// jobs are River's, in the same transaction as the decision that made them.
//
// A place that is known to ignore keys gets each post at most once: when it is
// unclear whether one arrived, a person decides.
package relay

import (
	"bytes"
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	mrand "math/rand/v2"
	"net"
	"net/http"
	"strconv"
	"time"

	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"
	"github.com/riverqueue/river/rivertype"
	webhooks "github.com/standard-webhooks/standard-webhooks/libraries/go"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/housefile"
	"vividporch/outside"
	"vividporch/store"
	"vividporch/store/jobs"
	"vividporch/store/safe"
)

// MaxAttempts is how often a post is tried before it is given up: with the
// backoff below that is about a day.
const MaxAttempts = 14

// Job is one post on its way.
type Job struct {
	Channel int64           `json:"channel"`
	Line    string          `json:"line"`
	Place   string          `json:"place"`
	Body    json.RawMessage `json:"body"`
	About   []string        `json:"about,omitempty"` // accounts that it is about
}

// Kind names the job to River.
func (Job) Kind() string { return "relay" }

// Key is the idempotency key: the same for every attempt at one post.
func (j Job) Key() string { return fmt.Sprintf("porch-%d-%s-%s", j.Channel, j.Line, j.Place) }

// Config is what a relay of one channel needs.
type Config struct {
	Channel int64
	Store   *store.Store
	Place   func(name string) *housefile.Place // as it stands in the settings now
	Outcome func(event.Data)                   // logs what became of a post
	Log     *slog.Logger
	Backoff func(attempt int) time.Duration // nil: Backoff
	HTTP    *http.Client                    // the way out
}

// Relay works one channel's posts.
type Relay struct {
	cfg    Config
	client *river.Client[*sql.Tx]
	http   *http.Client
}

// Queue is the channel's queue; only the channel's owner works it.
func Queue(channel int64) string { return "channel_" + strconv.FormatInt(channel, 10) }

// Backoff is the wait after a failed attempt: 2 s doubled each time up to two
// hours, give or take a fifth, so that many posts do not return in step.
func Backoff(attempt int) time.Duration {
	d := min(2*time.Second<<min(attempt-1, 20), 2*time.Hour)
	return d*4/5 + time.Duration(mrand.Int64N(int64(d)*2/5+1))
}

// New makes a relay; Start begins to work.
func New(cfg Config) (*Relay, error) {
	if cfg.Backoff == nil {
		cfg.Backoff = Backoff
	}
	r := &Relay{cfg: cfg, http: cfg.HTTP}
	workers := river.NewWorkers()
	river.AddWorker(workers, &worker{relay: r})
	client, err := river.NewClient(riverdatabasesql.New(cfg.Store.SQL), &river.Config{
		Queues:            map[string]river.QueueConfig{Queue(cfg.Channel): {MaxWorkers: 8}},
		Workers:           workers,
		FetchPollInterval: 200 * time.Millisecond,
		FetchCooldown:     100 * time.Millisecond,
		JobTimeout:        time.Minute,
		Logger:            slog.New(slog.DiscardHandler),
	})
	if err != nil {
		return nil, err
	}
	r.client = client
	return r, nil
}

// Start takes over what a process that is gone had begun, and works until Stop.
func (r *Relay) Start(ctx context.Context) error {
	if err := r.cfg.Store.Jobs.Free(ctx, Queue(r.cfg.Channel)); err != nil {
		return err
	}
	return r.client.Start(ctx)
}

// Stop lets running attempts end, within ctx.
func (r *Relay) Stop(ctx context.Context) error { return r.client.Stop(ctx) }

// Add adds posts within the transaction that decides them.
func (r *Relay) Add(ctx context.Context, tx *sql.Tx, jobs []Job) error {
	many := make([]river.InsertManyParams, len(jobs))
	for i, j := range jobs {
		many[i] = river.InsertManyParams{Args: j, InsertOpts: &river.InsertOpts{Queue: Queue(r.cfg.Channel), MaxAttempts: MaxAttempts}}
	}
	_, err := r.client.InsertManyFastTx(ctx, tx, many)
	return err
}

// SendAgain tries a post once more that was given up or is unclear: a person
// asked for it.
func (r *Relay) SendAgain(ctx context.Context, line, place string) error {
	body, err := r.body(ctx, line, place)
	if err != nil {
		return err
	}
	if err := r.cfg.Store.Jobs.SetPost(ctx, jobs.Post{Channel: r.cfg.Channel, Line: line, Place: place, State: "delayed"}); err != nil {
		return err
	}
	_, err = r.client.Insert(ctx, Job{Channel: r.cfg.Channel, Line: line, Place: place, Body: body},
		&river.InsertOpts{Queue: Queue(r.cfg.Channel), MaxAttempts: MaxAttempts})
	return err
}

// ErrNoPost says that there is no such post to send again.
var ErrNoPost = errors.New("there is no such post")

func (r *Relay) body(ctx context.Context, line, place string) (json.RawMessage, error) {
	told, err := r.cfg.Store.Log.DecisionsOf(ctx, r.cfg.Channel, line)
	if err != nil {
		return nil, err
	}
	for _, t := range told {
		if t.Decision.Kind == hall.Relay && t.Decision.Place == place {
			return t.Decision.Body, nil
		}
	}
	return nil, ErrNoPost
}

type worker struct {
	river.WorkerDefaults[Job]
	relay *Relay
}

// NextRetry follows the relay's own backoff.
func (w *worker) NextRetry(job *river.Job[Job]) time.Time {
	return time.Now().Add(w.relay.cfg.Backoff(job.Attempt))
}

// Work makes one attempt.
func (w *worker) Work(ctx context.Context, job *river.Job[Job]) error {
	r, j := w.relay, job.Args
	if len(j.Body) == 0 || string(j.Body) == "null" {
		return river.JobCancel(errors.New("whom it was about was forgotten while it was on its way"))
	}
	place := r.cfg.Place(j.Place)
	if place == nil {
		return r.giveUp(ctx, job, 0, "the place "+j.Place+" is no longer in the settings")
	}
	was, err := r.cfg.Store.Jobs.Post(ctx, j.Channel, j.Line, j.Place)
	if err != nil {
		return err
	}
	if was.State == "delivered" { // the house went down between the delivery and the end of the job
		r.cfg.Outcome(&event.RelayDelivered{RelayOutcome: outcome(job, 0, "")})
		return nil
	}
	if was.State == "trying" && place.IgnoresKeys {
		return r.unclear(ctx, job, "the house went down while it was sending")
	}
	if err := r.note(ctx, job, "trying", ""); err != nil {
		return err
	}
	status, wait, err := r.send(ctx, place, j)
	switch {
	case err == nil && status >= 200 && status < 300:
		if err := r.note(ctx, job, "delivered", ""); err != nil {
			return err
		}
		r.cfg.Outcome(&event.RelayDelivered{RelayOutcome: outcome(job, status, "")})
		return nil
	case err == nil && (status == http.StatusTooManyRequests || status == http.StatusServiceUnavailable):
		if wait <= 0 {
			wait = r.cfg.Backoff(job.Attempt)
		}
		reason := fmt.Sprintf("the place asks to wait (%d)", status)
		if err := r.note(ctx, job, "delayed", reason); err != nil {
			return err
		}
		r.delayed(job, status, reason, wait)
		return river.JobSnooze(wait)
	case err == nil && status >= 400 && status < 500 && status != http.StatusRequestTimeout:
		return r.giveUp(ctx, job, status, fmt.Sprintf("the place refused the post (%d)", status))
	case place.IgnoresKeys && !neverSent(err):
		return r.unclear(ctx, job, reasonOf(err, status))
	case job.Attempt >= job.MaxAttempts:
		return r.giveUp(ctx, job, status, reasonOf(err, status))
	}
	reason := reasonOf(err, status)
	if err := r.note(ctx, job, "delayed", reason); err != nil {
		return err
	}
	r.delayed(job, status, reason, r.cfg.Backoff(job.Attempt))
	return errors.New(reason)
}

func reasonOf(err error, status int) string {
	var ne net.Error
	var refused *outside.Refused
	switch {
	case errors.As(err, &refused):
		return refused.Error()
	case errors.Is(err, safe.ErrBound), errors.Is(err, safe.ErrKey):
		return err.Error()
	case err == nil:
		return fmt.Sprintf("the place answered with an error (%d)", status)
	case errors.As(err, &ne) && ne.Timeout():
		return "the place did not answer in time"
	case neverSent(err):
		return "the place does not answer"
	}
	return "the connection to the place broke"
}

// neverSent reports whether an error came before anything could have arrived.
func neverSent(err error) bool {
	var op *net.OpError
	return errors.As(err, &op) && op.Op == "dial" || errors.Is(err, safe.ErrBound) || errors.Is(err, safe.ErrKey)
}

func outcome(job *river.Job[Job], status int, reason string) event.RelayOutcome {
	return event.RelayOutcome{Line: job.Args.Line, Place: job.Args.Place, Attempt: job.Attempt, Status: status, Reason: reason, About: job.Args.About}
}

func (r *Relay) note(ctx context.Context, job *river.Job[Job], state, reason string) error {
	return r.cfg.Store.Jobs.SetPost(ctx, jobs.Post{Channel: job.Args.Channel, Line: job.Args.Line, Place: job.Args.Place, State: state, Attempts: job.Attempt, Reason: reason})
}

func (r *Relay) delayed(job *river.Job[Job], status int, reason string, wait time.Duration) {
	o := outcome(job, status, reason)
	o.NextTry = time.Now().Add(wait).UTC().Format(time.RFC3339)
	r.cfg.Outcome(&event.RelayDelayed{RelayOutcome: o})
}

func (r *Relay) giveUp(ctx context.Context, job *river.Job[Job], status int, reason string) error {
	if err := r.note(ctx, job, "failed", reason); err != nil {
		return err
	}
	r.cfg.Outcome(&event.RelayFailed{RelayOutcome: outcome(job, status, reason)})
	return river.JobCancel(errors.New(reason))
}

func (r *Relay) unclear(ctx context.Context, job *river.Job[Job], reason string) error {
	if err := r.note(ctx, job, "unclear", reason); err != nil {
		return err
	}
	r.cfg.Outcome(&event.RelayUnclear{RelayOutcome: outcome(job, 0, reason+"; it may have arrived")})
	return river.JobCancel(errors.New(reason))
}

// send makes one request. wait is what Retry-After asks for.
func (r *Relay) send(ctx context.Context, place *housefile.Place, j Job) (status int, wait time.Duration, err error) {
	timeout := time.Duration(place.TimeoutSeconds * float64(time.Second))
	if timeout <= 0 {
		timeout = 10 * time.Second
	}
	ctx, cancel := context.WithTimeout(ctx, timeout)
	defer cancel()
	req, err := http.NewRequestWithContext(ctx, http.MethodPost, place.URL, bytes.NewReader(j.Body))
	if err != nil {
		return 0, 0, err
	}
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("User-Agent", "vivid-porch")
	req.Header.Set("Idempotency-Key", j.Key())
	secret, err := r.cfg.Store.Safe.SecretTo(ctx, j.Channel, place.Name, "secret", place.URL)
	if err != nil {
		return 0, 0, err
	}
	if secret != "" {
		wh, err := webhooks.NewWebhook(secret)
		if err != nil {
			return 0, 0, err
		}
		now := time.Now()
		sig, err := wh.Sign(j.Key(), now, j.Body)
		if err != nil {
			return 0, 0, err
		}
		req.Header.Set(webhooks.HeaderWebhookID, j.Key())
		req.Header.Set(webhooks.HeaderWebhookTimestamp, strconv.FormatInt(now.Unix(), 10))
		req.Header.Set(webhooks.HeaderWebhookSignature, sig)
	}
	res, err := r.http.Do(req)
	if err != nil {
		return 0, 0, err
	}
	defer res.Body.Close()
	io.Copy(io.Discard, io.LimitReader(res.Body, 64<<10))
	return res.StatusCode, retryAfter(res.Header.Get("Retry-After"), time.Now()), nil
}

// Try makes one request to a place, now, and says what came of it: nil when the place took it.
func (r *Relay) Try(ctx context.Context, place *housefile.Place, body json.RawMessage) error {
	status, _, err := r.send(ctx, place, Job{Channel: r.cfg.Channel, Line: "try-" + rand.Text(), Place: place.Name, Body: body})
	switch {
	case err != nil:
		return errors.New(reasonOf(err, 0))
	case status >= 200 && status < 300:
		return nil
	case status == http.StatusUnauthorized || status == http.StatusForbidden:
		return fmt.Errorf("the place does not let the house post there (%d): give it the right to write, or check the address", status)
	case status == http.StatusNotFound || status == http.StatusGone:
		return fmt.Errorf("there is no such place at this address (%d): copy it anew", status)
	case status >= 300 && status < 400:
		return fmt.Errorf("the place sends elsewhere (%d): write the address that it leads to", status)
	case status == http.StatusTooManyRequests:
		return fmt.Errorf("the place asks to wait (%d): try again in a moment", status)
	case status < 500:
		return fmt.Errorf("the place does not understand the post (%d): look what it wants to be sent", status)
	}
	return fmt.Errorf("the place answered with an error (%d): try again in a moment", status)
}

// retryAfter reads the header (RFC 9110 section 10.2.3): seconds or a date. It is
// bounded to six hours, so that no place can put a post off for ever.
func retryAfter(h string, now time.Time) time.Duration {
	var d time.Duration
	if n, err := strconv.Atoi(h); err == nil {
		d = time.Duration(n) * time.Second
	} else if t, err := http.ParseTime(h); err == nil {
		d = t.Sub(now)
	}
	return max(0, min(d, 6*time.Hour))
}

var _ rivertype.JobArgs = Job{}
