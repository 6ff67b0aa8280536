package web_test

import (
	"encoding/json"
	"fmt"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"

	"aspenridge/internal/app"
	"aspenridge/internal/store"
	"aspenridge/test/stage"
)

// TestNothingReadsWhatOthersHave: whatever a request asks the database is found by a workspace or by
// the row it is about, in every statement of the pages and changes people ask for; and whatever
// points at a row is found from it when the row goes.
func TestNothingReadsWhatOthersHave(t *testing.T) {
	c := &counted{trace: map[string]*store.Trace{}, all: map[string]bool{}}
	s := open(t, stage.Options{Wrap: c.wrap})
	p := join(t, s, "a@one.example")
	kit := p.newKit("Otter")
	brief := p.newBrief(kit)
	at := "/briefs/" + brief
	p.must(p.json(at+"/edit", map[string]any{"path": "/cards/0/headline", "value": "Quiet water"}))
	p.must(p.changed("k1", at+"/sync", map[string]any{"client": "c1", "base": app.Latest, "have": map[string]any{}, "write": map[string]any{"card": "", "field": "headline", "reach": "set", "text": "Quiet"}}))
	p.must(p.json(at+"/proof/say", map[string]any{"piece": "feed-square", "words": "Lovely"}))
	p.must(p.json(at+"/proof/links", map[string]any{"for": "Ida"}))
	p.must(p.json(at+"/phone", map[string]any{}))
	p.must(p.json(at+"/finish", map[string]any{}))
	p.must(p.json("/kits/"+kit+"/edit", map[string]any{"action": "set", "path": "/$extensions/aspenridge/tagline", "value": "a"}))
	for _, path := range []string{
		"/desk", "/desk/today", "/desk/briefs?find=water", "/kits", "/kits?find=ott", "/kits/names", "/kits/" + kit, "/kits/" + kit + "/uses", "/kits/" + kit + "/guidelines", "/kits/" + kit + "/forward", at + "/start", at + "/looks", at + "/mat", at + "/video",
		at + "/handover", at + "/past", at + "/proof/", at + "/proof/state", "/team", "/record", "/record?kind=change&document=" + kit, "/channels", "/account", "/workspaces", "/wall?b=" + brief, "/several",
	} {
		if r, _ := p.get(path); r.StatusCode >= 400 {
			t.Fatalf("%s: %s", path, r.Status)
		}
	}
	p.must(p.json("/documents/"+brief+"/undo", map[string]any{}))
	p.form("/kits/"+kit+"/default", url.Values{})
	p.form(at+"/again", url.Values{"how": {"copy"}})
	p.form("/documents/"+brief+"/archive", url.Values{})
	p.form("/documents/"+brief+"/delete", url.Values{})

	conn, err := pgx.Connect(t.Context(), s.Store.Pool.Config().ConnString())
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = conn.Close(t.Context()) }()
	for _, set := range []string{ // of a table of one page the planner reads all, whatever it is asked
		`with others as (insert into workspaces (name) select 'Others ' || n from generate_series(1, 100) n returning id),
			kits as (insert into documents (workspace_id, kind, doc) select id, 'kit', '{}' from others, generate_series(1, 30) n returning id, workspace_id)
			insert into documents (workspace_id, kind, kit_id, doc) select workspace_id, 'brief', id, '{}' from kits, generate_series(1, 10) n`,
		`analyze documents`, `set enable_seqscan = off`, `set plan_cache_mode = force_generic_plan`} {
		if _, err := conn.Exec(t.Context(), set); err != nil {
			t.Fatal(err)
		}
	}
	looked := 0
	for sql := range c.all {
		if !regexp.MustCompile(`(?i)^(select|with|insert|update|delete)\b`).MatchString(sql) {
			continue
		}
		name := fmt.Sprint("s", looked)
		st, err := conn.Prepare(t.Context(), name, sql)
		if err != nil {
			t.Fatalf("%s: %v", sql, err)
		}
		looked++
		none := strings.TrimSuffix(strings.Repeat("null, ", len(st.ParamOIDs)), ", ")
		if none != "" {
			none = "(" + none + ")"
		}
		var plan string
		if err := conn.QueryRow(t.Context(), `explain (format json) execute `+name+none).Scan(&plan); err != nil {
			t.Fatalf("%s: %v", sql, err)
		}
		var nodes []any
		if err := json.Unmarshal([]byte(plan), &nodes); err != nil {
			t.Fatal(err)
		}
		walkPlan(nodes, func(node map[string]any) {
			table, _ := node["Relation Name"].(string)
			kind, _ := node["Node Type"].(string)
			if kind == "Bitmap Index Scan" {
				table, _ = node["Index Name"].(string)
			}
			cond, _ := node["Index Cond"].(string)
			byKind := regexp.MustCompile(`^\(kind = '\w+'::text\)$`).MatchString(cond)
			whole := kind == "Seq Scan" || strings.Contains(kind, "Index") && (cond == "" || byKind)
			if table != "" && whole && !shared[table] {
				t.Errorf("%s reads all of %s:\n%s", kind, table, sql)
			}
		})
	}
	if looked < 60 {
		t.Errorf("only %d statements were looked at", looked)
	}

	rows, err := conn.Query(t.Context(), `select c.conrelid::regclass::text || '.' || a.attname from pg_constraint c join pg_attribute a on a.attrelid = c.conrelid and a.attnum = c.conkey[1]
		where c.contype = 'f' and c.connamespace = 'public'::regnamespace and not exists (select from pg_index i where i.indrelid = c.conrelid and i.indkey[0] = c.conkey[1]
			and (i.indpred is null or pg_get_expr(i.indpred, i.indrelid) = '(' || a.attname || ' IS NOT NULL)'))`)
	if err != nil {
		t.Fatal(err)
	}
	without, err := pgx.CollectRows(rows, pgx.RowTo[string])
	if err != nil || len(without) > 0 {
		t.Errorf("no index leads from what they point at to %v, %v", without, err)
	}
}

// shared are tables that have no rows of a workspace, and few of them.
var shared = map[string]bool{"secrets": true}

func walkPlan(v any, see func(node map[string]any)) {
	switch v := v.(type) {
	case []any:
		for _, x := range v {
			walkPlan(x, see)
		}
	case map[string]any:
		see(v)
		for _, x := range v {
			walkPlan(x, see)
		}
	}
}
