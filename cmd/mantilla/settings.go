package main

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"net"
	"path/filepath"
	"slices"
	"strings"
	"time"
	_ "time/tzdata" // zones work on machines that have no zone files

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"
	"github.com/spf13/viper"

	"mantilla/core/nearest"
	"mantilla/core/period"
	"mantilla/deliver"
	"mantilla/deliver/mailbox"
	"mantilla/identity"
	"mantilla/library"
	"mantilla/library/access"
	"mantilla/library/acting"
	"mantilla/library/audit"
	"mantilla/library/backup"
	"mantilla/library/capture"
	"mantilla/library/secrets"
	"mantilla/library/sending"
	"mantilla/model"
	"mantilla/source/apart"
)

// settings are all that can be set about a service.
type settings struct {
	Data         string        `mapstructure:"data"`
	Address      string        `mapstructure:"address"`
	Name         string        `mapstructure:"name"`
	Zone         string        `mapstructure:"zone"`
	FiscalStart  int           `mapstructure:"fiscal-start"`
	Currency     string        `mapstructure:"currency"`
	BusinessDate string        `mapstructure:"business-date"`
	MaxRows      int64         `mapstructure:"max-rows"`
	OTLP         string        `mapstructure:"otlp-endpoint"`
	MaxWaiting   int           `mapstructure:"max-waiting"`
	MaxTime      time.Duration `mapstructure:"max-time"`
	Workers      int           `mapstructure:"workers"`
	CacheMB      int           `mapstructure:"cache-mb"`
	RunMB        int64         `mapstructure:"run-mb"`
	LogLevel     string        `mapstructure:"log-level"`
	LogFormat    string        `mapstructure:"log-format"`
	OpsAddress   string        `mapstructure:"ops-address"`
	Rate         float64       `mapstructure:"rate"`
	TwoPeople    bool          `mapstructure:"two-people"`
	OpenByTwo    bool          `mapstructure:"open-by-two"`
	TLSCert      string        `mapstructure:"tls-cert"`
	TLSKey       string        `mapstructure:"tls-key"`
	Secrets      string        `mapstructure:"secrets"`
	KeyFile      string        `mapstructure:"key-file"`
	BackupDir    string        `mapstructure:"backup-dir"`
	BackupEvery  time.Duration `mapstructure:"backup-every"`
	BackupKeep   int           `mapstructure:"backup-keep"`
	BackupWhole  int           `mapstructure:"backup-whole"`
	BackupFor    string        `mapstructure:"backup-for"`
	AuditDays    int           `mapstructure:"audit-days"`
	AuditSyslog  string        `mapstructure:"audit-syslog"`
	AuditCA      string        `mapstructure:"audit-syslog-ca"`

	OIDCIssuer   string   `mapstructure:"oidc-issuer"`
	OIDCClient   string   `mapstructure:"oidc-client"`
	OIDCSecret   string   `mapstructure:"oidc-secret"`
	OIDCLabel    string   `mapstructure:"oidc-label"`
	OIDCScopes   []string `mapstructure:"oidc-scopes"`
	OIDCName     string   `mapstructure:"oidc-name"`
	OIDCGroups   string   `mapstructure:"oidc-groups"`
	OIDCUnits    string   `mapstructure:"oidc-units"`
	OIDCAccounts string   `mapstructure:"oidc-accounts"`
	LocalAccount string   `mapstructure:"local-account"`
	SecondFor    string   `mapstructure:"second-factor-for"`

	PublicAddress string `mapstructure:"public-address"`
	SMTP          string `mapstructure:"smtp"`
	SMTPUser      string `mapstructure:"smtp-user"`
	SMTPPassword  string `mapstructure:"smtp-password"`
	SMTPTLS       string `mapstructure:"smtp-tls"`
	MailFrom      string `mapstructure:"mail-from"`
	MailLimitMB   int    `mapstructure:"mail-limit-mb"`
	Folder        string `mapstructure:"folder"`
	WebhookSecret string `mapstructure:"webhook-secret"`

	MailDomains    []string `mapstructure:"mail-domains"`
	HouseDomains   []string `mapstructure:"house-domains"`
	WebHosts       []string `mapstructure:"web-hosts"`
	TrustedProxies []string `mapstructure:"trusted-proxies"`

	mailbox *mailbox.Box

	zone     *time.Location
	now      func() time.Time
	logLevel slog.LevelVar
	said     []audit.Setting // as they were said, for who keeps the book of who did what
}

// log is where the service writes what it does: with the request that a line belongs to.
func (s *settings) log(to io.Writer) *slog.Logger {
	options := &slog.HandlerOptions{Level: &s.logLevel}
	if s.LogFormat == "json" {
		return slog.New(acting.Log(slog.NewJSONHandler(to, options)))
	}
	return slog.New(acting.Log(slog.NewTextHandler(to, options)))
}

func addSettings(cmd *cobra.Command) {
	f := cmd.Flags()
	f.String("config", "", "configuration file in YAML")
	f.String("data", "data", "data directory")
	f.String("address", "127.0.0.1:8480", "address to listen on; one that other machines reach needs TLS")
	f.String("tls-cert", "", "file of the TLS certificate, in PEM")
	f.String("tls-key", "", "file of the certificate's key, in PEM")
	f.String("secrets", "", "directory with a file for each password of a source; only the service may read them")
	f.String("key-file", "", "key that seals the passwords in the records; otherwise secrets.key in the data directory")
	f.String("backup-dir", "", "directory, on another disk, in which back-ups of the records are kept")
	f.Duration("backup-every", 24*time.Hour, "how often one is made by itself; 0 only when somebody asks")
	f.Int("backup-keep", 14, "how many there are before the oldest goes")
	f.Int("backup-whole", 7, "every how-manieth has everything, the others what changed since; 1 for each")
	f.String("backup-for", "",
		"file with the public keys for which back-ups are encrypted, one a line; mantilla key makes "+
			"one")
	f.Int("audit-days", 0, "how many days lines of the audit are kept; 0 for ever")
	f.String("audit-syslog", "", "where lines of the audit are sent on as RFC 5424 has them: udp://host:514, tcp:// or "+
		"tls://host:6514")
	f.String("audit-syslog-ca", "", "file with the certificates that are trusted there; otherwise the system's")
	f.String("oidc-issuer", "", "address of the OpenID Connect provider by which people sign in; wants --public-address")
	f.String("oidc-client", "mantilla", "id that this service has there")
	f.String("oidc-secret", "", "secret that it has there, if any; better given as MANTILLA_OIDC_SECRET")
	f.String("oidc-label", "your organisation's sign-in", "what people call it")
	f.StringSlice("oidc-scopes", nil, "further scopes that are asked for, with commas between")
	f.String("oidc-name", "preferred_username", "claim that has the name of the account")
	f.String("oidc-groups", "", "claim that has the ids of groups; otherwise groups are kept here")
	f.String("oidc-units", "", "claim that has the codes of units, or *; otherwise units are kept here")
	f.String("oidc-accounts", "known",
		"known: only accounts that are there come in; or the role of accounts that are made "+
			"at the first sign-in, reader or runner")
	f.String("local-account", "", "the one account that still signs in by a password; otherwise all that have one")
	f.String("second-factor-for", "",
		"role from which on those who sign in by a password need a second factor to do more "+
			"than read: reader, runner, author, librarian or administrator")
	f.String("name", "Mantilla", "name of the organisation")
	f.String("zone", "Europe/Berlin", "IANA time zone in which days begin and end")
	f.Int("fiscal-start", 1, "first month of the fiscal year, 1 to 12")
	f.String("currency", "EUR", "ISO 4217 code of money whose report names none")
	f.Bool("two-people", false, "one writes a definition, another takes it into the catalog")
	f.String("business-date", "", "run as if this were today, such as 2026-10-15")
	f.String("otlp-endpoint", "",
		"collector that is told how long requests, runs and parcels took, by OTLP over HTTP, as "+
			"http://127.0.0.1:4318")
	f.Bool("open-by-two", false, "opening a report to more people waits until a second person wants the same")
	f.Int("max-waiting", 200, "runs of one person that wait at most; who asks for more is told to wait")
	f.Int64("max-rows", 10_000_000, "most rows of a run whose report has no limit")
	f.Duration("max-time", 15*time.Minute, "longest run whose report has no limit")
	f.Int("workers", 2, "how many runs are carried out at once")
	f.Int("cache-mb", 512, "memory for decoded rows and what is computed of them, in MiB")
	f.Int64("run-mb", 0, "read the source of each run in a process of its own, which ends where it holds more memory "+
		"than so many MiB; 0 reads within the service")
	f.String("log-level", "info", "debug, info, warn or error; it is changed at --ops-address while the service runs")
	f.String("log-format", "text", "text or json, for lines of the log")
	f.String("ops-address", "", "address for what watches over the service: /healthz, /readyz, /metrics and /log-level; "+
		"let nobody else reach it")
	f.Float64("rate", 50, "how many requests a second a person, or a machine that nobody signed in from, may go on "+
		"making; 0 for any")
	f.String("public-address", "", "address at which people reach the console, for links in what is sent; otherwise the "+
		"one listened on")
	f.String("smtp", "", "mail server to send by, as host:port")
	f.String("smtp-tls", "starttls", "none, starttls or tls")
	f.String("smtp-user", "", "account at the mail server; its password is better given as MANTILLA_SMTP_PASSWORD")
	f.String("smtp-password", "", "password of the account at the mail server")
	f.String("mail-from", "Reports <reports@localhost>", "sender of mails")
	f.Int("mail-limit-mb", 10, "files of a mail, in MiB; larger ones become a link")
	f.String("folder", "", "folder below which run controls may put files; otherwise outgoing in the data directory")
	f.StringSlice("mail-domains", nil, "domains that mail may go to, with commas between; all where there are none")
	f.StringSlice("house-domains", nil,
		"domains of mail that are the house's own; mail to others needs the right to send "+
			"outside, which a person may have withheld")
	f.StringSlice("web-hosts", nil, "hosts, as host or host:port, that run controls may call, also inside; where there "+
		"are none, all that lie outside")
	f.StringSlice("trusted-proxies", nil, "addresses or networks of proxies whose word is taken for who calls, and "+
		"whether by TLS")
	f.String("webhook-secret", "", "secret that calls of web addresses are signed with; better given as "+
		"MANTILLA_WEBHOOK_SECRET")
}

func readSettings(cmd *cobra.Command) (*settings, error) {
	v := viper.New()
	v.SetEnvPrefix("mantilla")
	v.SetEnvKeyReplacer(strings.NewReplacer("-", "_"))
	v.AutomaticEnv()
	if err := v.BindPFlags(cmd.Flags()); err != nil {
		return nil, err
	}
	if file := v.GetString("config"); file != "" {
		v.SetConfigFile(file)
		if err := v.ReadInConfig(); errors.Is(err, fs.ErrNotExist) {
			return nil, fmt.Errorf("the configuration file %s does not exist", file)
		} else if err != nil {
			return nil, fmt.Errorf("reading the configuration file %s: %w", file, err)
		}
	}
	known := []string{}
	cmd.Flags().VisitAll(func(f *pflag.Flag) { known = append(known, f.Name) })
	for _, key := range v.AllKeys() {
		if !slices.Contains(known, key) {
			meant := "mantilla serve --help lists them"
			if near := nearest.Names(key, known, 1); len(near) > 0 {
				meant = "did you mean " + near[0] + "?"
			}
			return nil, fmt.Errorf("the configuration file %s names %q, which is no setting; %s", v.ConfigFileUsed(), key, meant)
		}
	}
	s := &settings{}
	if err := v.Unmarshal(s); err != nil {
		return nil, fmt.Errorf("reading the settings: %w", err)
	}
	cmd.Flags().VisitAll(func(f *pflag.Flag) {
		value := v.GetString(f.Name)
		if strings.HasPrefix(f.Value.Type(), "stringSlice") {
			value = strings.Join(v.GetStringSlice(f.Name), ", ")
		}
		s.said = append(s.said, audit.Setting{Name: f.Name, Value: value,
			Usual: strings.Trim(f.DefValue, "[]"), Secret: slices.Contains(secretSettings, f.Name)})
	})
	return s, s.check()
}

// secretSettings are those whose values nobody is told.
var secretSettings = []string{"oidc-secret", "smtp-password", "webhook-secret"}

// check settles what the settings mean and says which of them is wrong.
func (s *settings) check() (err error) {
	if s.zone, err = time.LoadLocation(s.Zone); err != nil {
		return fmt.Errorf("zone: %q is not an IANA time zone such as Europe/Berlin", s.Zone)
	}
	if err := s.logLevel.UnmarshalText([]byte(s.LogLevel)); err != nil {
		return fmt.Errorf("log-level: %q is not debug, info, warn or error", s.LogLevel)
	}
	switch {
	case s.FiscalStart < 1 || s.FiscalStart > 12:
		return fmt.Errorf("fiscal-start: %d is not a month from 1 to 12", s.FiscalStart)
	case s.Workers < 1 || s.Workers > 64:
		return fmt.Errorf("workers: %d is not a number from 1 to 64", s.Workers)
	case !slices.Contains([]string{"none", "starttls", "tls"}, s.SMTPTLS):
		return fmt.Errorf("smtp-tls: %q is not none, starttls or tls", s.SMTPTLS)
	case s.MailLimitMB < 1 || s.MailLimitMB > 100:
		return fmt.Errorf("mail-limit-mb: %d is not from 1 to 100", s.MailLimitMB)
	case s.RunMB != 0 && (s.RunMB < 128 || s.RunMB > 1<<20):
		return fmt.Errorf("run-mb: %d is not 0, nor from 128 to %d", s.RunMB, 1<<20)
	case s.LogFormat != "text" && s.LogFormat != "json":
		return fmt.Errorf("log-format: %q is not text or json", s.LogFormat)
	case s.Rate < 0:
		return fmt.Errorf("rate: %v is not a number of requests a second", s.Rate)
	case !slices.Contains([]string{"known", "reader", "runner"}, s.OIDCAccounts):
		return fmt.Errorf("oidc-accounts: %q is not known, reader or runner", s.OIDCAccounts)
	case !slices.Contains([]string{"", "reader", "runner", "author", "librarian", "administrator"}, s.SecondFor):
		return fmt.Errorf("second-factor-for: %q is not a role", s.SecondFor)
	case s.LocalAccount != "" && s.OIDCIssuer == "":
		return errors.New("local-account closes the others to passwords, so that it wants an oidc-issuer by which they " +
			"sign in")
	case s.OIDCIssuer != "" && s.public() == "":
		return errors.New("oidc-issuer wants a public-address, to which people come back from the provider")
	case s.AuditDays < 0 || s.AuditDays > 36_500:
		return fmt.Errorf("audit-days: %d is not a number of days", s.AuditDays)
	case s.CacheMB < 16:
		return fmt.Errorf("cache-mb: %d is too little; use at least 16", s.CacheMB)
	case (s.TLSCert == "") != (s.TLSKey == ""):
		return errors.New("tls-cert and tls-key belong together; give both or none")
	case s.MaxRows < 1, s.MaxTime <= 0:
		return errors.New("max-rows and max-time must be more than nothing")
	}
	s.now = time.Now
	if s.BusinessDate != "" {
		day, err := period.ParseDay(s.BusinessDate)
		if err != nil {
			return fmt.Errorf("business-date: %w", err)
		}
		s.now = clockOn(day, s.zone)
	}
	return nil
}

// clockOn is a clock that shows the time of day on another day and runs on
// from there.
func clockOn(day period.Day, zone *time.Location) func() time.Time {
	start := time.Now().In(zone)
	d := day.Time()
	shifted := time.Date(d.Year(), d.Month(), d.Day(), start.Hour(), start.Minute(), start.Second(), start.Nanosecond(),
		zone)
	return func() time.Time { return shifted.Add(time.Since(start)) }
}

func (s *settings) library() library.Settings {
	folder := s.Folder
	if folder == "" {
		folder = filepath.Join(s.Data, "outgoing")
	}
	return library.Settings{
		Organisation: model.Organisation{
			Name:        s.Name,
			Zone:        s.zone,
			FiscalStart: time.Month(s.FiscalStart), TwoPeople: s.TwoPeople, OpenByTwo: s.OpenByTwo,
			Currency: s.Currency,
			Now:      s.now,
			Address:  s.public(),
		},
		Limits: capture.Limits{Rows: s.MaxRows, Time: s.MaxTime, Workers: s.Workers, Waiting: s.MaxWaiting},
		Sending: sending.Settings{
			Mail: deliver.Server{
				Address:  s.SMTP,
				From:     s.MailFrom,
				User:     s.SMTPUser,
				Password: s.SMTPPassword,
				TLS:      s.SMTPTLS,
			},
			MailLimit:     s.MailLimitMB << 20,
			MailDomains:   s.MailDomains,
			HouseDomains:  s.HouseDomains,
			Calls:         deliver.Caller{Allowed: s.WebHosts},
			Folder:        folder,
			WebhookSecret: s.WebhookSecret,
			Mailbox:       s.mailbox,
		},
		DataDir: s.Data,
		Secrets: secrets.Settings{Dir: s.Secrets, KeyFile: s.KeyFile},
		Backup: backup.Settings{Dir: s.BackupDir, Every: s.BackupEvery, Keep: s.BackupKeep, Whole: s.BackupWhole,
			For:     s.BackupFor,
			Program: version},
		Audit:  audit.Settings{Keep: time.Duration(s.AuditDays) * 24 * time.Hour, Syslog: s.AuditSyslog, CA: s.AuditCA},
		Trust:  s.trust(),
		Worker: apart.Worker{Command: ownCommand(readSource), Memory: s.RunMB << 20},
	}
}

// trust says how people are let in whom the provider knows.
func (s *settings) trust() access.Trust {
	t := access.Trust{Asked: s.OIDCIssuer != "", Local: s.LocalAccount, SecondFor: model.Role(s.SecondFor)}
	if s.OIDCAccounts != "known" {
		t.Makes, t.Role = true, model.Role(s.OIDCAccounts)
	}
	return t
}

// provider knows who people are; nil for none.
func (s *settings) provider() *identity.Provider {
	return identity.New(identity.Settings{Issuer: s.OIDCIssuer, Client: s.OIDCClient, Secret: s.OIDCSecret,
		Label: s.OIDCLabel, Scopes: s.OIDCScopes, Name: s.OIDCName, Title: "name", Groups: s.OIDCGroups, Units: s.OIDCUnits})
}

// public is the address at which people reach the console: the one that was given,
// or the one that is listened on where that names a host and a port.
func (s *settings) public() string {
	if s.PublicAddress != "" {
		return strings.TrimRight(s.PublicAddress, "/")
	}
	host, port, err := net.SplitHostPort(s.Address)
	if ip := net.ParseIP(host); err != nil || host == "" || port == "0" || ip != nil && ip.IsUnspecified() {
		return ""
	}
	return s.scheme() + "://" + s.Address
}

func (s *settings) scheme() string {
	if s.TLSCert != "" {
		return "https"
	}
	return "http"
}
