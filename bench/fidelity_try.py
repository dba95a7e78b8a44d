import sys, time
import numpy as np
from scipy.spatial import cKDTree
from words import *
from distances import *
sys.path.insert(0,'/tmp')
from t1 import borders
from sobercrow.core.tracing._contour_kernels import fit_contour

def blur_of(g):
    from sobercrow.core.tracing._border_kernels import follow_borders
    cr,st=follow_borders(g,127.5); G=np.pad(g,8,mode='edge').astype(float)
    dx=np.array([1,0,-1,0]);dy=np.array([0,1,0,-1]); v=[]
    for r,c,d in cr[::3]:
        prof=np.array([G[r+8+k*dy[d],c+8+k*dx[d]] for k in range(-4,6)]); df=np.diff(prof)
        if abs(prof[-1]-prof[0])<200 or df.min()<-12: continue
        df=np.clip(df,0,None); x=np.arange(9); mu=(df*x).sum()/df.sum(); v.append((df*(x-mu)**2).sum()/df.sum())
    return np.sqrt(np.percentile(v,25)) if len(v)>4 else .45

def trace(g, tol, corner, smooth):
    blur=blur_of(g)
    out=[];corn=[];anch=0
    for p in borders(g):
        if len(p)<10: continue
        p=np.ascontiguousarray(p)
        a=np.empty((4*len(p)+16,6)); k=np.zeros(4*len(p)+16,np.uint8)
        m=fit_contour(p,tol,np.radians(corner),smooth,blur,a,k)
        a=a[:m].reshape(m,3,2); k=k[:m]; anch+=m
        nx=np.roll(a,-1,axis=0)
        out.append(np.stack([a[:,1],a[:,2],nx[:,0],nx[:,1]],axis=1)); corn.append(a[k==0,1])
    return out,np.vstack(corn) if corn else np.zeros((0,2)),anch

def run(faces, words, tol, corner, smooth, ems=(48,96,192), verbose=True):
    rows=[]
    for clean in (1,0):
        for em in ems:
            acc=[]
            for f in faces.values():
                for w in words:
                    W=set_word(f,w,em); g=render(W); g=g if clean else spoil(g)
                    t0=time.perf_counter(); out,corn,anch=trace(g,tol,corner,smooth); dt=time.perf_counter()-t0
                    d=both_ways(out,W.contours)
                    tc=np.vstack([true_corners(c) for c in W.contours])
                    found=(cKDTree(corn).query(tc)[0]<2).mean() if len(tc) and len(corn) else 1
                    allp=[];allt=[]
                    for c in W.contours:
                        a,b=turns(c); allp.append(a); allt.append(b)
                    tree=cKDTree(np.vstack(allp)); at=np.concatenate(allt)
                    real=np.mean([at[k].max()>30 if len(k) else False for k in tree.query_ball_point(corn,2.0)]) if len(corn) else 1
                    acc.append((d.mean(),np.percentile(d,99),d.max(),anch/W.anchors,found,real,dt))
            acc=np.mean(acc,axis=0); rows.append(acc)
            if verbose: print('clean' if clean else 'jpeg ',em,'mean %.4f p99 %.3f max %.2f anchors %.3f found %.3f real %.3f  %.3fs'%tuple(acc))
        if verbose: print('   ->', 'mean %.4f p99 %.3f max %.2f anchors %.3f found %.3f real %.3f'%tuple(np.mean(rows[-len(ems):],axis=0)[:6]))
    return rows
if __name__=='__main__':
    a=[float(x) for x in sys.argv[1:4]] or [0.35,48,1.0]
    run(TUNING_FACES,TUNING_WORDS,*a)
