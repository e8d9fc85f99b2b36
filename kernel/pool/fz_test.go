package pool
import ("testing";"fmt";"context";"encoding/json";"time";"math/rand";"strings";"hammerset/kernel/task")
func TestFz(t *testing.T) {
	p := start(t, 1, 60*time.Second)
	rng := rand.New(rand.NewSource(7))
	begin := time.Now()
	n := 0
	for time.Since(begin) < 150*time.Second {
		n++
		// an L or T or U profile
		w, h := 40.0, 60.0
		a, b := 10+rng.Float64()*20, 10+rng.Float64()*30
		pts := [][2]float64{{0,0},{w,0},{w,b},{a,b},{a,h},{0,h}}
		if rng.Intn(2)==0 { pts = [][2]float64{{0,0},{w,0},{w,h},{w-8,h},{w-8,b},{8,b},{8,h},{0,h}} }
		var ents []string
		for i, q := range pts { ents = append(ents, fmt.Sprintf(`{"id":"p%d","kind":"point","at":[%g,%g]}`, i+1, q[0], q[1])) }
		for i := range pts { ents = append(ents, fmt.Sprintf(`{"id":"l%d","kind":"line","from":"p%d","to":"p%d"}`, i+1, i+1, (i+1)%len(pts)+1)) }
		depth := 10+rng.Float64()*40
		steps := `{"id":"s","kind":"sketch","plane":{"datum":"XY"},"entities":[`+strings.Join(ents,",")+`]},{"id":"e","kind":"extrude","sketch":"s","regions":"all","extent":{"kind":"one-side","length":"`+fmt.Sprint(depth)+`"},"result":"add"}`
		if rng.Intn(2)==0 { steps += fmt.Sprintf(`,{"id":"s2","kind":"sketch","plane":{"face":"e/end"},"entities":[{"id":"m","kind":"point","at":[%g,%g]},{"id":"c","kind":"circle","center":"m","radius":%g}]},{"id":"e2","kind":"extrude","sketch":"s2","regions":"all","extent":{"kind":"one-side","length":"%g"},"result":"%s"}`, 5+rng.Float64()*30, 5+rng.Float64()*10, 2+rng.Float64()*12, 3+rng.Float64()*20, []string{"add","cut"}[rng.Intn(2)]) }
		limit := []float64{a, b, depth, w-a, h-b, depth/2, b/2, w/2}[rng.Intn(8)]
		r := limit*(1+[]float64{-0.02,-0.004,-1e-4,0,1e-4,0.004,0.02}[rng.Intn(7)])
		r2 := r*[]float64{1,0.5,0.3}[rng.Intn(3)]
		var edges []string
		for i := range pts { if rng.Intn(2)==0 { edges = append(edges, fmt.Sprintf(`{"between":["e/side:l%d","e/side:l%d"]}`, i+1, (i+1)%len(pts)+1)) } }
		if len(edges)>0 { steps += fmt.Sprintf(`,{"id":"f1","kind":"fillet","edges":[%s],"radius":"%g"}`, strings.Join(edges,","), r) }
		steps += fmt.Sprintf(`,{"id":"f2","kind":"fillet","edges":[{"around":"e/end"}],"radius":"%g"}`, r2)
		doc := `{"hammerset":"model/1","name":"b","unit":"mm","parameters":[],"steps":[`+steps+`]}`
		_, err := p.once(context.Background(), &task.Request{Kind: task.Rebuild, File: []byte(doc)}, nil)
		if err != nil { fmt.Println("CRASH", n, err, doc)
			t0:=time.Now()
			raw, err := p.Do(context.Background(), &task.Request{Kind: task.Rebuild, File: []byte(doc)}, nil)
			fmt.Println("   careful", time.Since(t0), err)
			var out task.Rebuilt
			json.Unmarshal(raw,&out)
			for _, s := range out.Steps { if s.Failed { fmt.Println("   ", s.Message) } }
		}
	}
	fmt.Println(n, "models")
}
