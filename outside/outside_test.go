package outside_test

import (
	"errors"
	"net"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"net/url"
	"strings"
	"testing"
	"time"

	"vividporch/outside"
)

func TestWhichAddressesAreOnTheOpenNetwork(t *testing.T) {
	for at, private := range map[string]bool{
		"93.184.216.34": false, "2606:2800:220:1::1": false, "127.0.0.1": true, "127.9.9.9": true, "::1": true, "10.1.2.3": true, "172.16.0.1": true, "192.168.1.1": true,
		"169.254.169.254": true, "fe80::1": true, "fd12::1": true, "100.64.0.1": true, "0.0.0.0": true, "::": true, "::ffff:127.0.0.1": true, "::ffff:10.0.0.1": true,
		"64:ff9b::7f00:1": true, "2002:7f00:1::": true, "224.0.0.1": true, "240.0.0.1": true, "172.32.0.1": false, "8.8.8.8": false,
	} {
		if got := outside.Private(netip.MustParseAddr(at)); got != private {
			t.Errorf("%s: %v", at, got)
		}
	}
}

func TestAHostOfThisMachineIsReachedOnlyWhenItIsAllowed(t *testing.T) {
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { w.WriteHeader(http.StatusNoContent) }))
	defer srv.Close()
	u, _ := url.Parse(srv.URL)
	by := func(host string) string { return "http://" + net.JoinHostPort(host, u.Port()) }
	closed := (&outside.Dialer{}).Client(5 * time.Second)
	for _, host := range []string{"127.0.0.1", "localhost", "0.0.0.0", "::ffff:127.0.0.1", "0x7f.1"} {
		res, err := closed.Get(by(host))
		if err == nil {
			res.Body.Close()
			t.Errorf("%s was reached", host)
		}
	}
	_, err := closed.Get(by("localhost"))
	var refused *outside.Refused
	if !errors.As(err, &refused) || refused.Never || !strings.Contains(err.Error(), "vividporch allow localhost") {
		t.Errorf("the remedy is not named: %v", err)
	}
	open := &outside.Dialer{Allowed: func(host string) bool { return host == "localhost" || host == "169.254.169.254" }}
	if res, err := open.Client(5 * time.Second).Get(by("localhost")); err != nil || res.StatusCode != http.StatusNoContent {
		t.Errorf("an allowed host: %v", err)
	}
	if _, err := open.Client(5 * time.Second).Get(by("127.0.0.1")); err == nil {
		t.Error("another name of the same machine was not allowed, and was reached")
	}
	if _, err := open.Client(time.Second).Get("http://169.254.169.254/latest/meta-data"); !errors.As(err, &refused) || !refused.Never {
		t.Errorf("metadata: %v", err)
	}
}

func TestNoRedirectLeadsToWhatIsNotAllowed(t *testing.T) {
	inner := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { w.WriteHeader(http.StatusTeapot) }))
	defer inner.Close()
	outer := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) { http.Redirect(w, r, inner.URL, http.StatusFound) }))
	defer outer.Close()
	u, _ := url.Parse(outer.URL)
	c := (&outside.Dialer{Allowed: func(host string) bool { return host == "localhost" }}).Client(5 * time.Second)
	start := "http://" + net.JoinHostPort("localhost", u.Port())
	if res, err := c.Get(start); err == nil {
		t.Errorf("redirected to another host: %d", res.StatusCode)
	}
	if res, err := c.Post(start, "application/json", strings.NewReader("{}")); err != nil || res.StatusCode != http.StatusFound {
		t.Errorf("a post is not sent elsewhere: %v", err)
	}
}

// A name that leads to the open network when it is looked at, and elsewhere when it is
// connected to, gains nothing: what is checked is what is connected to.
func TestWhatIsCheckedIsWhatIsConnectedTo(t *testing.T) {
	asked := 0
	d := &outside.Dialer{Allowed: func(string) bool { asked++; return false }}
	conn, err := d.DialContext(t.Context(), "tcp", "localhost:9")
	if err == nil {
		conn.Close()
		t.Error("connected")
	}
	if asked == 0 {
		t.Error("nobody asked at the time of connecting")
	}
}
