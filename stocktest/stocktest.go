// Package stocktest starts the stock servers that the house must get along with, on loopback and for one test: Debian's,
// not ours. Where one is not installed the test is skipped, unless PORCH_TEST says that nothing may be missing.
package stocktest

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/x509"
	"encoding/pem"
	"fmt"
	"math/big"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"
)

// Server is one that runs until its test ends.
type Server struct {
	Plain, Secure string         // host:port, without and with TLS; of XMPP both are one
	Roots         *x509.CertPool // that vouch for its certificate
	Process       *os.Process
}

// IRC starts ngircd.
func IRC(t *testing.T) *Server {
	t.Helper()
	bin := find(t, "ngircd")
	dir := t.TempDir()
	os.Chmod(dir, 0o755)
	s := &Server{Plain: free(t), Secure: free(t)}
	_, p, _ := net.SplitHostPort(s.Plain)
	_, sp, _ := net.SplitHostPort(s.Secure)
	s.Roots = certificate(t, dir, "127.0.0.1")
	conf := fmt.Sprintf("[Global]\nName = irc.stock.example\nInfo = a stock server\nListen = 127.0.0.1\nPorts = %s\nServerUID = 65534\nServerGID = 65534\n[Limits]\nMaxConnectionsIP = 0\nMaxNickLength = 30\nPingTimeout = 120\nPongTimeout = 20\n[Options]\nDNS = no\nIdent = no\nPAM = no\n[SSL]\nCertFile = %s/cert.pem\nKeyFile = %s/key.pem\nPorts = %s\n", p, dir, dir, sp)
	write(t, filepath.Join(dir, "ngircd.conf"), conf)
	s.start(t, exec.Command(bin, "-n", "-f", filepath.Join(dir, "ngircd.conf")), s.Plain)
	return s
}

// Domain is the domain of [XMPP]'s accounts. Its rooms are at rooms.Domain; at quiet.Domain only who has a voice speaks,
// and at closed.Domain only members come in.
const Domain = "lowtide.example"

// XMPP starts prosody, with accounts of these names whose passwords are "low water".
func XMPP(t *testing.T, accounts ...string) *Server {
	t.Helper()
	bin := find(t, "prosody")
	dir, err := os.MkdirTemp("", "stock") // not the test's own, whose parents are closed to another user
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { os.RemoveAll(dir) })
	s := &Server{Plain: free(t)}
	s.Secure = s.Plain
	_, port, _ := net.SplitHostPort(s.Plain)
	s.Roots = certificate(t, dir, Domain)
	at := filepath.Join(dir, "data", strings.ReplaceAll(Domain, ".", "%2e"), "accounts")
	if err := os.MkdirAll(at, 0o755); err != nil {
		t.Fatal(err)
	}
	for _, a := range accounts {
		write(t, filepath.Join(at, a+".dat"), `return { ["password"] = "low water"; };`)
	}
	write(t, filepath.Join(dir, "prosody.cfg.lua"), `
pidfile = "`+dir+`/prosody.pid"
data_path = "`+dir+`/data"
interfaces = { "127.0.0.1" }
c2s_ports = { `+port+` }
modules_enabled = { "roster", "saslauth", "tls", "disco", "ping" }
modules_disabled = { "s2s", "offline" }
authentication = "internal_plain"
c2s_require_encryption = false
ssl = { certificate = "`+dir+`/cert.pem", key = "`+dir+`/key.pem" }
log = { error = "`+dir+`/log" }
VirtualHost "`+Domain+`"
Component "rooms.`+Domain+`" "muc"
  muc_room_locking = false
Component "quiet.`+Domain+`" "muc"
  muc_room_locking = false
  muc_room_default_moderated = true
  muc_room_default_persistent = true
Component "closed.`+Domain+`" "muc"
  muc_room_locking = false
  muc_room_default_members_only = true
  muc_room_default_persistent = true
`)
	cmd := exec.Command(bin, "-F", "--config", filepath.Join(dir, "prosody.cfg.lua"))
	if os.Geteuid() == 0 { // it will not run as root
		u, err := user.Lookup("prosody")
		if err != nil {
			t.Fatal(err)
		}
		uid, _ := strconv.Atoi(u.Uid)
		gid, _ := strconv.Atoi(u.Gid)
		filepath.Walk(dir, func(p string, _ os.FileInfo, _ error) error { return os.Chown(p, uid, gid) })
		cmd.SysProcAttr = &syscall.SysProcAttr{Credential: &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}}
	}
	s.start(t, cmd, s.Plain)
	return s
}

func find(t *testing.T, program string) string {
	t.Helper()
	bin, err := exec.LookPath(program)
	if err != nil {
		if os.Getenv("PORCH_TEST") != "" {
			t.Fatal(program + " is missing")
		}
		t.Skip(program + " is not installed")
	}
	return bin
}

func free(t *testing.T) string {
	t.Helper()
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer ln.Close()
	return ln.Addr().String()
}

func write(t *testing.T, path, text string) {
	t.Helper()
	if err := os.WriteFile(path, []byte(text), 0o644); err != nil {
		t.Fatal(err)
	}
}

// certificate writes cert.pem and key.pem for a name or a number, and tells who vouches for them.
func certificate(t *testing.T, dir, name string) *x509.CertPool {
	t.Helper()
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		t.Fatal(err)
	}
	tpl := &x509.Certificate{SerialNumber: big.NewInt(1), NotBefore: time.Now().Add(-time.Hour), NotAfter: time.Now().Add(time.Hour), IsCA: true, BasicConstraintsValid: true}
	if ip := net.ParseIP(name); ip != nil {
		tpl.IPAddresses = []net.IP{ip}
	} else {
		tpl.DNSNames = []string{name}
	}
	der, err := x509.CreateCertificate(rand.Reader, tpl, tpl, &key.PublicKey, key)
	if err != nil {
		t.Fatal(err)
	}
	keyDER, err := x509.MarshalPKCS8PrivateKey(key)
	if err != nil {
		t.Fatal(err)
	}
	cert := pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: der})
	write(t, filepath.Join(dir, "cert.pem"), string(cert))
	write(t, filepath.Join(dir, "key.pem"), string(pem.EncodeToMemory(&pem.Block{Type: "PRIVATE KEY", Bytes: keyDER})))
	roots := x509.NewCertPool()
	roots.AppendCertsFromPEM(cert)
	return roots
}

// start starts a server and waits until it listens.
func (s *Server) start(t *testing.T, cmd *exec.Cmd, address string) {
	t.Helper()
	if err := cmd.Start(); err != nil {
		t.Fatal(err)
	}
	s.Process = cmd.Process
	t.Cleanup(func() { cmd.Process.Kill(); cmd.Wait() })
	for deadline := time.Now().Add(20 * time.Second); ; time.Sleep(20 * time.Millisecond) {
		if c, err := net.Dial("tcp", address); err == nil {
			c.Close()
			return
		}
		if time.Now().After(deadline) {
			t.Fatal("the server does not listen")
		}
	}
}
