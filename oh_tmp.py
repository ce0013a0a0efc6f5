import tempfile,logging,sys
from pathlib import Path
from harquel.demo.load_sqlite import load
from trust.cases import cases, rows_of, same, FOLDER
from trust.measure import measure_drafts
from trust.world import world
logging.disable(logging.ERROR)
with tempfile.TemporaryDirectory() as n:
    db=Path(n)/"ferries.db"; load(db)
    known=cases([FOLDER/f for f in (sys.argv[1:] or ["other_hand.yaml"])])
    for c in known:
        r=rows_of(db,c.right); g=rows_of(db,c.sql)
        if isinstance(r,str): print("RIGHT FAILS",c.question,r)
        if c.kind and same(r,g,c.ordered): print("WRONG IS SAME:",c.kind,c.question,c.sql, str(r)[:100])
        if not c.kind and c.sql!=c.right and isinstance(g,str): print("2nd right fails",g)
    rep=measure_drafts(known, world(db))
    t=[(k.name,k.drafts,k.found,k.repaired,k.announced,k.silent) for k in rep.kinds.values()]
    print("drafts",sum(x[1] for x in t),"found",sum(x[2] for x in t),"repaired",sum(x[3] for x in t),"announced",sum(x[4] for x in t),"silent",sum(x[5] for x in t), "right",rep.right,"alarms",rep.false_alarms)
    for m in rep.missed: print("SILENT",m)
    for a in rep.alarms: print("ALARM",a)
