package storetest

import (
	"context"
	"database/sql"
	"fmt"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"slices"
	"strconv"
	"syscall"
	"testing"
	"time"
)

// Cluster is a PostgreSQL server of a test's own, to stop, hang and start again.
type Cluster struct {
	t    testing.TB
	bin  string
	data string
	port string
	as   *syscall.Credential // PostgreSQL will not run as root
	cmd  *exec.Cmd
}

// NewCluster makes a server and starts it; it goes with the test.
func NewCluster(t testing.TB) *Cluster {
	t.Helper()
	bins, _ := filepath.Glob("/usr/lib/postgresql/*/bin")
	if len(bins) == 0 {
		if os.Getenv("PORCH_TEST") != "" {
			t.Fatal("PostgreSQL's programs are not there")
		}
		t.Skip("needs PostgreSQL's programs")
	}
	slices.Sort(bins)
	dir, err := os.MkdirTemp("", "porch-cluster")
	if err != nil {
		t.Fatal(err)
	}
	c := &Cluster{t: t, bin: bins[len(bins)-1], data: filepath.Join(dir, "data"), port: freePort(t)}
	t.Cleanup(func() { c.Stop(); os.RemoveAll(dir) })
	if os.Getuid() == 0 {
		u, err := user.Lookup("postgres")
		if err != nil {
			t.Fatal(err)
		}
		uid, _ := strconv.Atoi(u.Uid)
		gid, _ := strconv.Atoi(u.Gid)
		c.as = &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}
		if err := os.Chown(dir, uid, gid); err != nil {
			t.Fatal(err)
		}
	}
	if out, err := c.command("initdb", "-D", c.data, "-U", "porch", "--auth=trust", "-E", "UTF8", "--locale=C.UTF-8", "-N").CombinedOutput(); err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
	conf := fmt.Sprintf("listen_addresses = '127.0.0.1'\nport = %s\nunix_socket_directories = ''\nmax_connections = 120\nfsync = off\n", c.port)
	if err := os.WriteFile(filepath.Join(c.data, "postgresql.auto.conf"), []byte(conf), 0o600); err != nil {
		t.Fatal(err)
	}
	if c.as != nil {
		os.Chown(filepath.Join(c.data, "postgresql.auto.conf"), int(c.as.Uid), int(c.as.Gid))
	}
	c.Start()
	return c
}

func freePort(t testing.TB) string {
	t.Helper()
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer ln.Close()
	_, port, _ := net.SplitHostPort(ln.Addr().String())
	return port
}

func (c *Cluster) command(name string, args ...string) *exec.Cmd {
	cmd := exec.Command(filepath.Join(c.bin, name), args...)
	cmd.Dir = "/"
	cmd.SysProcAttr = &syscall.SysProcAttr{Credential: c.as, Setpgid: true}
	return cmd
}

// URL is the address of its one database.
func (c *Cluster) URL() string {
	return "postgres://porch@127.0.0.1:" + c.port + "/postgres?sslmode=disable"
}

// Start starts the server and waits until it answers.
func (c *Cluster) Start() {
	c.t.Helper()
	c.cmd = c.command("postgres", "-D", c.data)
	if err := c.cmd.Start(); err != nil {
		c.t.Fatal(err)
	}
	db, err := sql.Open("pgx", c.URL())
	if err != nil {
		c.t.Fatal(err)
	}
	defer db.Close()
	for end := time.Now().Add(20 * time.Second); ; time.Sleep(50 * time.Millisecond) {
		ctx, cancel := context.WithTimeout(context.Background(), time.Second)
		err := db.PingContext(ctx)
		cancel()
		if err == nil {
			return
		}
		if time.Now().After(end) {
			c.t.Fatalf("PostgreSQL does not answer: %v", err)
		}
	}
}

// Stop stops the server at once, as an administrator does who does not wait.
func (c *Cluster) Stop() {
	if c.cmd == nil {
		return
	}
	c.Resume()
	c.cmd.Process.Signal(syscall.SIGINT)
	c.cmd.Wait()
	c.cmd = nil
}

// Hang makes every process of the server stand still: connections stay open, and nothing
// answers.
func (c *Cluster) Hang() { c.each(syscall.SIGSTOP) }

// Resume lets it go on.
func (c *Cluster) Resume() { c.each(syscall.SIGCONT) }

func (c *Cluster) each(sig syscall.Signal) {
	if c.cmd == nil {
		return
	}
	main := c.cmd.Process.Pid
	syscall.Kill(main, sig) // first: it makes no new ones
	procs, _ := filepath.Glob("/proc/[0-9]*/stat")
	for _, p := range procs {
		raw, err := os.ReadFile(p)
		if err != nil {
			continue
		}
		var pid, parent int
		var name, state string
		if _, err := fmt.Sscanf(string(raw), "%d %s %s %d", &pid, &name, &state, &parent); err == nil && parent == main {
			syscall.Kill(pid, sig)
		}
	}
}
