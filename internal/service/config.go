package service

import (
	"fmt"
	"net"
	"net/mail"
	"net/netip"
	"net/url"
	"os"
	"slices"
	"strings"

	"compactparcel/demo"

	"github.com/spf13/pflag"
	"go.yaml.in/yaml/v3"
)

// Config says how a service runs.
type Config struct {
	Data           string
	Listen         string
	Previews       string
	PreviewPattern string // empty: http://{host}.localhost:PORT of Previews
	Database       string // empty: a MariaDB of its own in the data folder
	Forms          string // empty: no forms are received
	FormsAddress   string // empty: http:// and Forms
	SMTP           string // host:port; empty: no mails are sent
	SMTPUser       string
	SMTPPassword   string
	MailFrom       string
	Browser        string // auto, a path, or none
	Outlets        string // the folder below which sites are published by going live
	Demo           string // how much of the demo is brought in: see package demo; empty: nothing
	SecureCookies  bool
	ConsoleOrigins []string // besides the address it listens on
	TrustedProxies []string // addresses or networks
	Log            string
	Output         string // how it says where it is: text or json
	File           string // the configuration file
}

// DataFlags are the flags that say where the data are.
func (c *Config) DataFlags(f *pflag.FlagSet) {
	f.StringVar(&c.Data, "data", "data", "the data `folder`")
	f.StringVar(&c.Database, "database", "", "`DSN` of a MariaDB, as user:password@tcp(host:3306)/name")
	f.StringVar(&c.Log, "log", "info", "debug, info, warn or error")
	f.StringVar(&c.File, "config", "", "a YAML `file` with any of these")
}

// Flags are all flags of a service.
func (c *Config) Flags(f *pflag.FlagSet) {
	c.DataFlags(f)
	f.StringVar(&c.Listen, "listen", "127.0.0.1:8460", "`address` of console and interface")
	f.StringVar(&c.Previews, "previews", "127.0.0.1:8461", "`address` of the previews")
	f.StringVar(
		&c.PreviewPattern,
		"preview-pattern",
		"",
		"a preview's `address` as browsers see it, with {host} for site or draft (default "+
			"http://{host}.localhost:PORT)",
	)
	f.StringVar(&c.Forms, "forms", "127.0.0.1:8462",
		"`address` at which the forms of published sites are received; none when empty")
	f.StringVar(&c.FormsAddress, "forms-address", "",
		"that `address` as browsers see it, as https://forms.parcel.example (default http://FORMS)")
	f.StringVar(&c.SMTP, "smtp", "", "the mail server, as `host:port`: forms are told to the team by it")
	f.StringVar(&c.SMTPUser, "smtp-user", "", "its `user`, where it wants one")
	f.StringVar(&c.SMTPPassword, "smtp-password", "", "the user's `password`: better in the environment or the file")
	f.StringVar(&c.MailFrom, "mail-from", "", "the mail `address` that mails come from")
	f.StringVar(&c.Browser, "browser", "auto",
		"the Chromium that makes pictures: auto (Debian's, where it is installed), a `path`, or none")
	f.StringVar(&c.Outlets, "outlets", "",
		"the `folder` below which sites are published by going live (default DATA/outlets)")
	f.StringVar(&c.Demo, "demo", "", "load the demo data: `all|sites|lived`")
	f.Lookup("demo").NoOptDefVal = demo.All
	f.StringVar(&c.Output, "output", "text",
		"the `form` in which it says where it is, once it is ready: text, or json, on one line")
	f.BoolVar(&c.SecureCookies, "secure-cookies", false, "session cookies for encrypted connections only")
	f.StringSliceVar(&c.ConsoleOrigins, "console-origin", nil,
		"further `origins` at which browsers reach the console, as https://parcel.example")
	f.StringSliceVar(&c.TrustedProxies, "trusted-proxies", nil,
		"`addresses` or networks of proxies whose X-Forwarded-For is trusted")
}

// EnvPrefix begins the environment variables of flags: CPARCEL_LISTEN for --listen.
const EnvPrefix = "CPARCEL_"

// Load reads what the flags were not given from the environment, else from the
// configuration file. A key of the file that is no flag, or a value that cannot be read,
// is an error: nothing is passed over.
func (c *Config) Load(f *pflag.FlagSet) error {
	fromEnv := func(x *pflag.Flag) (string, bool) {
		return os.LookupEnv(EnvPrefix + strings.ToUpper(strings.ReplaceAll(x.Name, "-", "_")))
	}
	if text, ok := fromEnv(f.Lookup("config")); ok && !f.Changed("config") {
		c.File = text
	}
	values, err := readFile(c.File, f)
	if err != nil {
		return err
	}
	f.VisitAll(func(x *pflag.Flag) {
		if x.Changed || err != nil || x.Name == "config" || x.Name == "help" {
			return
		}
		from := "the environment"
		text, ok := fromEnv(x)
		if !ok {
			from = c.File
			text, ok = values[x.Name]
		}
		if !ok {
			return
		}
		if e := f.Set(x.Name, text); e != nil {
			err = fmt.Errorf("%s, %s: %q cannot be read: %w", from, x.Name, text, e)
		}
	})
	if err != nil {
		return err
	}
	return c.check()
}

// readFile reads the configuration file into the texts of flags.
func readFile(name string, f *pflag.FlagSet) (map[string]string, error) {
	if name == "" {
		return nil, nil
	}
	b, err := os.ReadFile(name)
	if err != nil {
		return nil, fmt.Errorf("reading the configuration: %w", err)
	}
	var doc map[string]any
	if err := yaml.Unmarshal(b, &doc); err != nil {
		return nil, fmt.Errorf("reading the configuration %s: %w", name, err)
	}
	out := map[string]string{}
	for key, v := range doc {
		if x := f.Lookup(key); x == nil || key == "config" || key == "help" {
			var known []string
			f.VisitAll(func(x *pflag.Flag) {
				if x.Name != "config" && x.Name != "help" {
					known = append(known, x.Name)
				}
			})
			return nil, fmt.Errorf("the configuration %s: there is no setting %q (settings: %s)", name, key,
				strings.Join(known, ", "))
		}
		switch v := v.(type) {
		case []any:
			var parts []string
			for _, e := range v {
				parts = append(parts, fmt.Sprint(e))
			}
			out[key] = strings.Join(parts, ",")
		case map[string]any, nil:
			return nil, fmt.Errorf("the configuration %s: %s has no value that can be read", name, key)
		default:
			out[key] = fmt.Sprint(v)
		}
	}
	return out, nil
}

// check holds the settings against what they can be.
func (c *Config) check() error {
	switch strings.ToLower(c.Demo) {
	case "false", "no", "0":
		c.Demo = ""
	case "true", "yes", "1":
		c.Demo = demo.All
	}
	if c.Demo != "" && !slices.Contains(demo.Worlds, c.Demo) {
		return fmt.Errorf("--demo: %q is none of %s", c.Demo, strings.Join(demo.Worlds, ", "))
	}
	if !slices.Contains([]string{"debug", "info", "warn", "error"}, strings.ToLower(c.Log)) {
		return fmt.Errorf("--log: %q is none of debug, info, warn, error", c.Log)
	}
	if !slices.Contains([]string{"", "text", "json"}, c.Output) {
		return fmt.Errorf("--output: %q is neither text nor json", c.Output)
	}
	if c.PreviewPattern != "" && !strings.Contains(c.PreviewPattern, "{host}") {
		return fmt.Errorf("--preview-pattern: %q has no {host} in it", c.PreviewPattern)
	}
	if err := c.checkMail(); err != nil {
		return err
	}
	for _, o := range c.ConsoleOrigins {
		u, err := url.Parse(o)
		if err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Host == "" || strings.Trim(u.Path, "/") != "" {
			return fmt.Errorf("--console-origin: %q is not an origin: write it as https://parcel.example", o)
		}
	}
	for _, p := range c.TrustedProxies {
		_, err := netip.ParseAddr(p)
		if _, e := netip.ParsePrefix(p); err != nil && e != nil {
			return fmt.Errorf("--trusted-proxies: %q is neither an address nor a network: write it as 10.0.0.7 "+
				"or 10.0.0.0/8",
				p)
		}
	}
	return nil
}

// checkMail holds what is said of forms and mails against what can be.
func (c *Config) checkMail() error {
	u, err := url.Parse(c.FormsAddress)
	if c.FormsAddress != "" && (err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Host == "") {
		return fmt.Errorf("--forms-address: %q is no address: write it as https://forms.parcel.example",
			c.FormsAddress)
	}
	if c.SMTP == "" {
		return nil
	}
	if _, _, err := net.SplitHostPort(c.SMTP); err != nil {
		return fmt.Errorf("--smtp: %q is no mail server: write it as mail.parcel.example:587", c.SMTP)
	}
	if a, err := mail.ParseAddress(c.MailFrom); err != nil || a.Address == "" {
		return fmt.Errorf("--mail-from: %q is no mail address", c.MailFrom)
	}
	return nil
}

// names are the hosts of the console's origins.
func (c *Config) names() []string {
	var out []string
	for _, o := range c.ConsoleOrigins {
		if u, err := url.Parse(o); err == nil { // checked when it was loaded
			out = append(out, u.Hostname())
		}
	}
	return out
}
