// Package localpg runs a PostgreSQL server of the project's own, on loopback,
// from the programs Debian installs.
//
// The server refuses to run as root. Started by root, it runs as the postgres
// user, and its data folder goes where that user can enter.
package localpg

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"net"
	"net/url"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"
)

const superuser = "gobbet"

// Cluster is a running server.
type Cluster struct {
	Data     string // its data folder
	Port     int
	password string
	programs string
	asOther  bool
}

// Options says how to run a cluster.
type Options struct {
	// Home is the folder to keep the data in, if the server's user can enter it.
	Home string
	// Throwaway trades safety against a crash for speed; for tests.
	Throwaway bool
}

// Start starts the cluster of a folder, making it if there is none yet, or
// takes it over if it runs already.
func Start(ctx context.Context, o Options) (*Cluster, error) {
	programs, err := findPrograms()
	if err != nil {
		return nil, err
	}
	c := &Cluster{programs: programs, asOther: os.Geteuid() == 0}
	if err := c.settleIn(ctx, o.Home); err != nil {
		return nil, err
	}
	if err := c.ensure(ctx); err != nil {
		return nil, err
	}
	if c.running(ctx) {
		c.Port, err = portOf(c.Data)
		return c, err
	}
	if c.Port, err = FreePort(); err != nil {
		return nil, err
	}
	settings := fmt.Sprintf("-p %d -c listen_addresses=127.0.0.1 -c unix_socket_directories='' -c max_connections=60", c.Port)
	if o.Throwaway {
		settings += " -c fsync=off -c synchronous_commit=off -c full_page_writes=off"
	}
	logFile := filepath.Join(c.Data, "server.log")
	if out, err := c.run(ctx, "pg_ctl", "-D", c.Data, "-l", logFile, "-w", "-t", "30", "-o", settings, "start"); err != nil {
		return nil, fmt.Errorf("PostgreSQL did not start from %s; the end of its log says: %s", c.Data, lastLine(logFile, out))
	}
	return c, nil
}

// Stop ends the server, letting go of what is connected.
func (c *Cluster) Stop() error {
	ctx, cancel := context.WithTimeout(context.Background(), 30*time.Second)
	defer cancel()
	if out, err := c.run(ctx, "pg_ctl", "-D", c.Data, "-m", "fast", "-w", "stop"); err != nil {
		return fmt.Errorf("PostgreSQL did not stop: %s", strings.TrimSpace(out))
	}
	return nil
}

// Restart starts a stopped cluster again, on the port it had.
func (c *Cluster) Restart(ctx context.Context) error {
	settings := fmt.Sprintf("-p %d -c listen_addresses=127.0.0.1 -c unix_socket_directories='' -c max_connections=60", c.Port)
	if out, err := c.run(ctx, "pg_ctl", "-D", c.Data, "-l", filepath.Join(c.Data, "server.log"), "-w", "-o", settings, "start"); err != nil {
		return fmt.Errorf("PostgreSQL did not start again: %s", strings.TrimSpace(out))
	}
	return nil
}

// URL is where to find a database of the cluster.
func (c *Cluster) URL(database string) string {
	u := url.URL{
		Scheme: "postgres", User: url.UserPassword(superuser, c.password), Path: "/" + database,
		Host: net.JoinHostPort("127.0.0.1", strconv.Itoa(c.Port)), RawQuery: "sslmode=disable",
	}
	return u.String()
}

func findPrograms() (string, error) {
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/pg_ctl")
	if len(found) > 0 {
		slices.Sort(found)
		return filepath.Dir(found[len(found)-1]), nil
	}
	if path, err := exec.LookPath("pg_ctl"); err == nil {
		return filepath.Dir(path), nil
	}
	return "", errors.New("the PostgreSQL server is missing: install Debian's package postgresql")
}

// settleIn picks the data folder: below home, or, where the server's user
// cannot enter that, below /var/lib, keyed by home.
func (c *Cluster) settleIn(ctx context.Context, home string) error {
	home, err := filepath.Abs(home)
	if err != nil {
		return err
	}
	if !c.asOther {
		c.Data = filepath.Join(home, "pg")
		return os.MkdirAll(home, 0o700)
	}
	if _, err := user.Lookup("postgres"); err != nil {
		return errors.New("there is no user named postgres to run the database as: install Debian's package postgresql")
	}
	key := sha256.Sum256([]byte(home))
	for _, base := range []string{home, "/var/lib/gobbet-" + hex.EncodeToString(key[:6])} {
		if err := os.MkdirAll(base, 0o755); err != nil {
			continue
		}
		c.Data = filepath.Join(base, "pg")
		if err := os.Mkdir(c.Data, 0o700); err != nil && !errors.Is(err, os.ErrExist) {
			continue
		}
		if err := chownTo("postgres", c.Data); err != nil {
			return err
		}
		if _, err := c.run(ctx, "test", "-w", c.Data); err == nil {
			return nil
		}
		os.Remove(c.Data)
	}
	return fmt.Errorf("the postgres user can enter neither %s nor /var/lib: the database has nowhere to keep its data", home)
}

func chownTo(name, path string) error {
	u, err := user.Lookup(name)
	if err != nil {
		return err
	}
	uid, _ := strconv.Atoi(u.Uid)
	gid, _ := strconv.Atoi(u.Gid)
	return os.Chown(path, uid, gid)
}

// ensure makes the cluster if its folder is empty, and reads its password.
func (c *Cluster) ensure(ctx context.Context) error {
	secret := c.Data + ".password"
	if _, err := os.Stat(filepath.Join(c.Data, "PG_VERSION")); err == nil {
		kept, err := os.ReadFile(secret)
		if err != nil {
			return fmt.Errorf("the password of the database in %s is lost: %w", c.Data, err)
		}
		c.password = strings.TrimSpace(string(kept))
		return nil
	}
	c.password = rand.Text()
	if err := os.WriteFile(secret, []byte(c.password), 0o600); err != nil {
		return err
	}
	handed := secret + ".new"
	if err := os.WriteFile(handed, []byte(c.password), 0o600); err != nil {
		return err
	}
	defer os.Remove(handed)
	if c.asOther {
		if err := chownTo("postgres", handed); err != nil {
			return err
		}
	}
	out, err := c.run(ctx, "initdb", "-D", c.Data, "-U", superuser, "--pwfile", handed, "--auth-host=scram-sha-256", "--auth-local=scram-sha-256", "-E", "UTF8", "--locale=C.UTF-8")
	if err != nil {
		return fmt.Errorf("the database could not be made in %s: %s", c.Data, strings.TrimSpace(out))
	}
	return nil
}

func (c *Cluster) running(ctx context.Context) bool {
	_, err := c.run(ctx, "pg_ctl", "-D", c.Data, "status")
	return err == nil
}

// run runs one of PostgreSQL's programs, or any other, as the server's user.
func (c *Cluster) run(ctx context.Context, program string, args ...string) (string, error) {
	if path := filepath.Join(c.programs, program); fileExists(path) {
		program = path
	}
	if c.asOther {
		args = append([]string{"-u", "postgres", "--", program}, args...)
		program = "runuser"
	}
	cmd := exec.CommandContext(ctx, program, args...)
	cmd.Dir = "/"
	// The server outlives pg_ctl and would hold a pipe open: give it a file.
	file, err := os.CreateTemp("", "gobbet-pg-*")
	if err != nil {
		return "", err
	}
	defer os.Remove(file.Name())
	defer file.Close()
	cmd.Stdout, cmd.Stderr = file, file
	err = cmd.Run()
	said, _ := os.ReadFile(file.Name())
	return string(said), err
}

func fileExists(path string) bool {
	_, err := os.Stat(path)
	return err == nil
}

// portOf reads the port a running server noted (line 4 of postmaster.pid).
func portOf(data string) (int, error) {
	text, err := os.ReadFile(filepath.Join(data, "postmaster.pid"))
	if err != nil {
		return 0, err
	}
	lines := strings.Split(string(text), "\n")
	if len(lines) < 4 {
		return 0, errors.New("the running database does not say its port")
	}
	return strconv.Atoi(strings.TrimSpace(lines[3]))
}

// FreePort gives a port on loopback that nothing listens on.
func FreePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, err
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port, nil
}

func lastLine(path, otherwise string) string {
	text, err := os.ReadFile(path)
	if err != nil || len(text) == 0 {
		text = []byte(otherwise)
	}
	lines := strings.Split(strings.TrimSpace(string(text)), "\n")
	return lines[len(lines)-1]
}
